/** What the plan shows of the surface: the overview, and what is in view in its own triangles where the overview is too coarse. */
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, type Ref } from 'vue'
import { api, type Packed } from '@/api/client'
import type { ContourSet } from '@/canvas/plan/layers'
import { makeMesh, type TerrainMesh } from '@/canvas/plan/terrain'
import type { ViewTransform } from '@/canvas/shared/viewTransform'
import { useLook } from '@/stores/look'
import type { Workbench } from './workbench'

type Box = [number, number, number, number]
const COARSE = 1.5 // pixels between the lattice's levels from which it is too coarse
const REST = 120 // ms without movement before detail is asked for

/** A square window round the view, on a grid of its own so that small moves ask for nothing new. */
export function windowOf(v: ViewTransform): Box {
  const side = 2 ** Math.ceil(Math.log2((Math.max(v.width, v.height) / v.scale) * 1.3))
  const step = side / 8
  const e = Math.round(v.e / step) * step,
    n = Math.round(v.n / step) * step
  return [e - side / 2, n - side / 2, e + side / 2, n + side / 2]
}
export const covers = (box: Box, v: ViewTransform) =>
  box[0] <= v.e - v.width / 2 / v.scale &&
  box[2] >= v.e + v.width / 2 / v.scale &&
  box[1] <= v.n - v.height / 2 / v.scale &&
  box[3] >= v.n + v.height / 2 / v.scale

export function useShown(bench: Workbench, view: Ref<ViewTransform>) {
  const look = useLook()
  const told = (p: Packed) =>
    p.header as unknown as { extent: Box; levels: [number, number]; robust_levels: [number, number]; spacing: number; window: Box | null }
  const overview = computed<TerrainMesh | null>(() => {
    const t = bench.terrain.value
    return t
      ? makeMesh(t.header.origin, t.floats.points!, t.ints.triangles!, t.ints.breaklines!, told(t).extent, told(t).robust_levels)
      : null
  })
  const resting = refDebounced(view, REST)
  const window = computed(() => {
    const t = bench.terrain.value
    const v = resting.value
    if (!t || !v.scale || told(t).spacing * v.scale < COARSE) return ''
    return windowOf(v).join(',')
  })
  const usual = {
    enabled: computed(() => !!window.value && !!bench.surface.value),
    staleTime: Infinity,
    gcTime: 60_000,
    structuralSharing: false,
    placeholderData: (before: Packed | undefined) => before,
  } as const
  const nearQuery = useQuery({
    ...usual,
    queryKey: computed(() => ['shown', bench.surface.value?.key, window.value]),
    queryFn: () => api.geometry(`/surfaces/${bench.surface.value!.id}/geometry?window=${window.value}`),
  })
  const contoursQuery = useQuery({
    ...usual,
    queryKey: computed(() => ['shown-contours', bench.surface.value?.key, look.contourStep, look.contours.rounded, window.value]),
    queryFn: () =>
      api.geometry(
        `/surfaces/${bench.surface.value!.id}/contours?interval=${look.contourStep}&rounded=${look.contours.rounded}` +
          `&window=${window.value}`,
      ),
  })
  const near = computed<TerrainMesh | null>(() => {
    const p = window.value ? nearQuery.data.value : null
    if (!p || !overview.value) return null
    return makeMesh(p.header.origin, p.floats.points!, p.ints.triangles!, p.ints.breaklines!, told(p).window!, overview.value.levels)
  })
  const setOf = (p: Packed): ContourSet => ({
    origin: p.header.origin,
    xy: p.floats.xy!,
    starts: p.ints.starts!,
    levels: p.floats.levels!,
    interval: p.header.interval as number,
  })
  const all = computed(() => (bench.contours.value ? setOf(bench.contours.value) : null))
  const nearContours = computed(() => {
    const p = window.value ? contoursQuery.data.value : null
    return p ? { set: setOf(p), window: told(p).window! } : null
  })
  return {
    overview,
    near,
    /** the finest triangles there are for the whole view */
    finest: computed(() => (near.value && covers(near.value.extent, view.value) ? near.value : overview.value)),
    contours: computed(() => (nearContours.value && covers(nearContours.value.window, view.value) ? nearContours.value.set : all.value)),
    /** detail is on its way */
    sharpening: computed(() => nearQuery.isFetching.value),
  }
}
