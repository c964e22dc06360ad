/** The finished ground: figures, triangles for the model, lines for the plan; fetched anew with every state of the project, never asked for
 * by a button. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, type Packed } from '@/api/client'
import type { Finished } from '@/api/types'
import { units } from '@/lib/units'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'
import type { Workbench } from './workbench'

const FINEST = 0.05 // of the interval of contours on pavement, in the project's units

export function useFinished(bench: Workbench) {
  const ui = useUi()
  const look = useLook()
  const surface = computed(() => bench.road.value?.surface_id ?? bench.surface.value?.id ?? null)
  const wanted = computed(() => ui.stage === 'junctions' && surface.value !== null && bench.project.value !== null)
  const key = (what: string) => computed(() => [what, surface.value, bench.project.value?.ledger.head])
  const usual = { enabled: wanted, structuralSharing: false, shallow: true, retry: false } as const
  const told = useQuery<Finished>({
    ...usual,
    queryKey: key('finished'),
    queryFn: ({ signal }) => api.get<Finished>(`/surfaces/${surface.value}/finished`, signal), // of a state that is past: not waited for
    placeholderData: (before: Finished | undefined) => before,
  })
  const kept = { ...usual, placeholderData: (before: Packed | undefined) => before } as const
  const geometry = useQuery<Packed>({
    ...kept,
    queryKey: key('finished-geometry'),
    queryFn: ({ signal }) => api.geometry(`/surfaces/${surface.value}/finished/geometry`, signal),
  })
  const interval = computed(() => Math.max(look.contours.interval / 4, FINEST) * units.value.metre)
  const lines = useQuery<Packed>({
    ...kept,
    queryKey: computed(() => ['finished-lines', surface.value, bench.project.value?.ledger.head, interval.value]),
    queryFn: ({ signal }) => api.geometry(`/surfaces/${surface.value}/finished/lines?interval=${interval.value}`, signal),
  })
  const shown = <T>(q: { data: { value: T | undefined } }) => computed(() => (wanted.value ? (q.data.value ?? null) : null))
  return { surface, told, geometry: shown(geometry), lines: shown(lines) }
}
