/** What stands beside the profile on the long section: other profiles, ground elsewhere, what crosses the line. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api } from '@/api/client'
import { useUi } from '@/stores/ui'
import type { Workbench } from './workbench'

export interface Candidate { id: string; name: string; used: boolean; points: [number, number][]; cut: number | null; fill: number | null; problem: string | null }
export interface Beside { grounds: { name: string; points: [number, number | null][] }[]; crossings: { kind: 'road' | 'line'; name: string; station: number; level: number | null }[] }

export function useBeside(bench: Workbench) {
  const ui = useUi()
  const ready = computed(() => ui.stage === 'levels' && !!bench.saved.value?.line)
  const besideQuery = useQuery({
    queryKey: computed(() => ['beside', ui.roadId, bench.saved.value?.key, bench.project.value?.ledger.head, ui.longGround.offsets.join(), ui.longGround.surfaces.join()]),
    queryFn: () => api.get<Beside>(`/roads/${ui.roadId}/beside?offsets=${ui.longGround.offsets.join()}&surfaces=${ui.longGround.surfaces.join()}`),
    enabled: ready,
    placeholderData: (before) => before,
  })
  const candidatesQuery = useQuery({
    queryKey: computed(() => ['candidates', ui.roadId, bench.project.value?.ledger.head]),
    queryFn: () => api.get<Candidate[]>(`/roads/${ui.roadId}/candidates`),
    enabled: computed(() => ready.value && !!bench.road.value?.candidates.length),
    placeholderData: (before) => before,
  })
  return {
    beside: computed(() => (ready.value ? (besideQuery.data.value ?? null) : null)),
    candidates: computed(() => (bench.road.value?.candidates.length ? (candidatesQuery.data.value ?? []) : [])),
  }
}
