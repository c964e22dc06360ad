/** What stands beside the profile on the long section: other profiles, ground elsewhere, what crosses the line. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api } from '@/api/client'
import type { Beside, CandidateLine } from '@/api/types'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'
import type { Workbench } from './workbench'

export function useBeside(bench: Workbench) {
  const ui = useUi()
  const look = useLook()
  const ready = computed(() => ui.stage === 'levels' && !!bench.saved.value?.line)
  const besideQuery = useQuery({
    queryKey: computed(() => [
      'beside',
      ui.roadId,
      bench.saved.value?.key,
      bench.project.value?.ledger.head,
      look.longGround.offsets.join(),
      look.longGround.surfaces.join(),
      look.longBeds,
    ]),
    queryFn: () =>
      api.get<Beside>(
        `/roads/${ui.roadId}/beside?offsets=${look.longGround.offsets.join()}&surfaces=${look.longGround.surfaces.join()}` +
          (look.longBeds ? '&beds=true' : ''),
      ),
    enabled: ready,
    placeholderData: (before) => before,
  })
  const candidatesQuery = useQuery({
    queryKey: computed(() => ['candidates', ui.roadId, bench.project.value?.ledger.head]),
    queryFn: () => api.get<CandidateLine[]>(`/roads/${ui.roadId}/candidates`),
    enabled: computed(() => ready.value && !!bench.road.value?.candidates.length),
    placeholderData: (before) => before,
  })
  return {
    beside: computed(() => (ready.value ? (besideQuery.data.value ?? null) : null)),
    candidates: computed(() => (bench.road.value?.candidates.length ? (candidatesQuery.data.value ?? []) : [])),
  }
}
