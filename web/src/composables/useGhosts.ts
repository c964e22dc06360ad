/** Sections kept for comparison: up to three chainages of the active road, drawn under the section with their centres on its own. */
import { useQueries } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api } from '@/api/client'
import type { Section } from '@/api/types'
import { useUi } from '@/stores/ui'
import type { Workbench } from './workbench'

export const MOST_GHOSTS = 3
export const GHOST_COLOURS = ['#8a4f7d', '#5a7d3a', '#4a6fa5']

export function useGhosts(bench: Workbench) {
  const ui = useUi()
  const stations = ref<number[]>([])
  watch(
    () => ui.roadId,
    () => (stations.value = []),
  )
  const queries = useQueries({
    queries: computed(() =>
      stations.value.map((s) => ({
        queryKey: ['ghost', ui.roadId, bench.saved.value?.key, s],
        queryFn: () => api.get<Section>(`/roads/${ui.roadId}/section?station=${s}`),
      })),
    ),
  })
  const ghosts = computed(() =>
    stations.value.map((station, i) => ({ station, colour: GHOST_COLOURS[i]!, section: queries.value[i]?.data ?? null })),
  )
  const keep = (station: number) => {
    if (stations.value.length < MOST_GHOSTS && !stations.value.includes(station)) stations.value = [...stations.value, station]
  }
  const forget = (station: number) => (stations.value = stations.value.filter((s) => s !== station))
  return { ghosts, keep, forget }
}
