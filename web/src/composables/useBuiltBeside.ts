/** Other roads as they are built, for the model: those that come near the active one, as they are saved. */
import { useQueries } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, AppError, type Packed } from '@/api/client'
import type { LightRoad } from '@/api/types'
import { useUi } from '@/stores/ui'
import type { Workbench } from './workbench'

const NEAR = 300 // m between points of two lines
const MOST = 12 // roads; farther ones stay light lines
const ROUGHLY = 40 // points of a line that are looked at

type Line = readonly (readonly [number, number, number | null])[]
const thinned = (points: Line) => points.filter((_, i) => i % Math.ceil(points.length / ROUGHLY) === 0 || i === points.length - 1)

/** The nearest distance between points of two lines, m. */
export function apart(one: Line, two: Line): number {
  let best = Infinity
  for (const [e, n] of thinned(one)) for (const [f, m] of thinned(two)) best = Math.min(best, Math.hypot(e - f, n - m))
  return best
}

/** Other roads near a line, the nearest first. */
export function nearRoads(own: Line, others: readonly LightRoad[]): LightRoad[] {
  return others
    .map((road) => ({ road, far: apart(own, road.points) }))
    .filter((r) => r.far <= NEAR)
    .sort((a, b) => a.far - b.far)
    .slice(0, MOST)
    .map((r) => r.road)
}

/** A road that cannot be built stays a light line; anything else that goes wrong is not its answer. */
export function notBuilt(error: unknown): null {
  if (error instanceof AppError && (error.status === 404 || error.status === 422)) return null
  throw error
}

type KeyOf = { queryKey: readonly unknown[] } | undefined

/** What was drawn of a road until its newer shape comes; never that of another road that stood at its place in the list. */
export const keptOf = (road: number) => (before: Packed | null | undefined, query: KeyOf) =>
  query?.queryKey[1] === road ? before : undefined

export function useBuiltBeside(bench: Workbench) {
  const ui = useUi()
  const near = computed(() => {
    const line = bench.saved.value?.line
    if (!line) return []
    return nearRoads(
      line.points.map(([, e, n]) => [e, n, null] as const),
      bench.others.value,
    )
  })
  const queries = useQueries({
    queries: computed(() =>
      near.value.map((r) => ({
        queryKey: ['model-beside', r.road_id, bench.project.value?.ledger.head],
        queryFn: () => api.geometry(`/roads/${r.road_id}/model`).catch(notBuilt),
        enabled: ui.roadId !== null,
        structuralSharing: false as const,
        placeholderData: keptOf(r.road_id),
      })),
    ),
  })
  return computed(() => queries.value.flatMap((q) => (q.data ? [q.data as Packed] : [])))
}
