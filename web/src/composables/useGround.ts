/** The ground of the open project as the server knows it: findings, received lines, labels along paths. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, type Packed } from '@/api/client'
import type { Changes, ContourLabel, GroundEdit } from '@/api/types'
import type { GroundLines } from '@/canvas/plan/groundLayers'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'
import { useGroundFindings } from './useOpenFindings'
import type { Workbench } from './workbench'

export function useGround(bench: Workbench) {
  const ui = useUi()
  const look = useLook()
  const surface = bench.surface
  const there = computed(() => !!surface.value?.sources.length)
  const findingsQuery = useGroundFindings(bench, () => ui.stage === 'ground')
  const linesQuery = useQuery({
    // the same survey brought in again has another id
    queryKey: computed(() => ['ground-lines', surface.value?.key, surface.value?.sources.map((s) => s.id).join()]),
    queryFn: () => api.geometry(`/surfaces/${surface.value!.id}/lines`),
    enabled: there,
    staleTime: Infinity,
    structuralSharing: false,
    placeholderData: (before) => before,
  })
  /** labels on strong contours only: the interval of these; 0 for all */
  const labelMajor = computed(() => (look.contours.labelStrong ? look.contourStep * look.contours.every : 0))
  const labelsQuery = useQuery({
    queryKey: computed(() => [
      'ground-labels',
      surface.value?.key,
      look.contourStep,
      look.contours.rounded,
      labelMajor.value,
      JSON.stringify(surface.value?.label_paths ?? []),
    ]),
    queryFn: () =>
      api.get<ContourLabel[][]>(
        `/surfaces/${surface.value!.id}/labels?interval=${look.contourStep}&rounded=${look.contours.rounded}&major=${labelMajor.value}`,
      ),
    enabled: computed(() => there.value && !!surface.value?.label_paths.length),
    placeholderData: (before) => before,
  })
  const lines = computed<GroundLines | null>(() => {
    const p = linesQuery.data.value as Packed | undefined
    return there.value && p
      ? {
          origin: p.header.origin,
          vertices: p.floats.vertices!,
          starts: p.ints.starts!,
          heads: p.ints.heads!,
          own: p.ints.own!,
          heights: p.floats.heights!,
          layers: p.header.layers as string[],
        }
      : null
  })
  const labels = computed(() => (surface.value?.label_paths.length ? (labelsQuery.data.value ?? []).flat() : []))

  /** Add edits to the surface's recipe, as one act. */
  const edit = (edits: GroundEdit[]) => bench.post('surface', surface.value!.id, 'edits', { edits })
  const change = (values: Changes['surface']) => bench.change('surface', surface.value!.id, values, { silentFailure: true })
  return {
    surface,
    findings: computed(() => (there.value ? (findingsQuery.data.value ?? null) : null)),
    checking: findingsQuery.isFetching,
    failed: computed(() => findingsQuery.error.value?.message ?? ''),
    seen: findingsQuery.isPlaceholderData,
    lines,
    labels,
    edit,
    change,
  }
}
export type Ground = ReturnType<typeof useGround>
