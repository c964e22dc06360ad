/**
 * Sections drawn under the one that is shown: up to three chainages of the active road with their centres on its own, the same chainage
 * with another of its profiles, and other roads where they cross it.
 */
import { keepPreviousData, useQueries, useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api } from '@/api/client'
import type { Neighbour, Section } from '@/api/types'
import { useUi } from '@/stores/ui'
import type { Workbench } from './workbench'

export const MOST_GHOSTS = 3
export const GHOST_COLOURS = ['#8a4f7d', '#5a7d3a', '#4a6fa5']
/** A chainage, or another profile of the road at the chainage that is shown. */
type Kept = { station: number; candidate?: undefined } | { candidate: string; station?: undefined }

export function useGhosts(bench: Workbench) {
  const ui = useUi()
  const kept = ref<Kept[]>([])
  watch(
    () => ui.roadId,
    () => (kept.value = []),
  )
  const profiles = computed(() => {
    const road = bench.road.value
    return road ? [{ id: '', name: 'First' }, ...road.candidates].filter((c) => c.id !== road.candidate) : []
  })
  /** The chainage that is shown, where a section stands still. */
  const shown = computed(() => bench.section.value?.station ?? null)
  const asked = (k: Kept) => ('candidate' in k ? { station: shown.value, candidate: k.candidate } : { station: k.station })
  const queries = useQueries({
    queries: computed(() =>
      kept.value.map(asked).map((q) => ({
        queryKey: ['ghost', ui.roadId, bench.saved.value?.key, q.station, q.candidate ?? null],
        enabled: q.station !== null,
        queryFn: () =>
          api.get<Section>(
            `/roads/${ui.roadId}/section?station=${q.station}${q.candidate === undefined ? '' : `&candidate=${q.candidate}`}`,
          ),
      })),
    ),
  })
  const ghosts = computed(() =>
    kept.value.map((k, i) => ({
      key: k.candidate === undefined ? `s${k.station}` : `c${k.candidate}`,
      name: k.candidate === undefined ? bench.station(k.station!) : (profiles.value.find((p) => p.id === k.candidate)?.name ?? ''),
      inPlace: k.candidate !== undefined,
      colour: GHOST_COLOURS[i]!,
      section: queries.value[i]?.data ?? null,
    })),
  )
  const has = (k: Kept) => kept.value.some((o) => o.station === k.station && o.candidate === k.candidate)
  const keep = (k: Kept) => {
    if (kept.value.length < MOST_GHOSTS && !has(k)) kept.value = [...kept.value, k]
  }
  const forget = (i: number) => (kept.value = kept.value.filter((_, k) => k !== i))
  return { ghosts, keep, forget, profiles }
}

/** Other roads that the section at the reading mark crosses, as they are saved. */
export function useNeighbours(bench: Workbench) {
  const ui = useUi()
  const at = computed(() => bench.saved.value?.section?.station ?? bench.section.value?.station ?? null)
  const query = useQuery({
    queryKey: computed(() => ['neighbours', ui.roadId, bench.project.value?.ledger.head, at.value]),
    enabled: computed(() => at.value !== null && (bench.project.value?.roads.length ?? 0) > 1),
    queryFn: () => api.get<Neighbour[]>(`/roads/${ui.roadId}/section/neighbours?station=${at.value}`),
    placeholderData: keepPreviousData,
  })
  return computed(() => (at.value === null ? [] : (query.data.value ?? [])))
}
