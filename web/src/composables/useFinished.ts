/** The finished ground: figures, triangles for the model, lines for the plan; fetched anew with every state of the project, never asked for
 * by a button. */
import { useQuery } from '@tanstack/vue-query'
import { computed, watch } from 'vue'
import { api, type Packed } from '@/api/client'
import type { Finished } from '@/api/types'
import { builtInterval } from '@/bench/finishedTrial'
import { useUi } from '@/stores/ui'
import type { Workbench } from './workbench'

export function useFinished(bench: Workbench) {
  const ui = useUi()
  const surface = computed(() => bench.road.value?.surface_id ?? bench.surface.value?.id ?? null)
  const wanted = computed(() => ui.stage === 'junctions' && surface.value !== null && bench.project.value !== null)
  const key = (what: string) => computed(() => [what, surface.value, bench.project.value?.ledger.head])
  const usual = { enabled: wanted, structuralSharing: false, retry: false } as const
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
  const interval = computed(builtInterval)
  const lines = useQuery<Packed>({
    ...kept,
    queryKey: computed(() => ['finished-lines', surface.value, bench.project.value?.ledger.head, interval.value]),
    queryFn: ({ signal }) => api.geometry(`/surfaces/${surface.value}/finished/lines?interval=${interval.value}`, signal),
  })
  const shown = <T>(q: { data: { value: T | undefined } }) => computed(() => (wanted.value ? (q.data.value ?? null) : null))
  /** What a drag makes of a part of it, in its boxes in place of the whole; after an act until the new whole has come. */
  const behind = (q: { dataUpdatedAt: { value: number } }) => {
    const tried = bench.finishedNear.value
    return tried && (tried.head === bench.project.value?.ledger.head || q.dataUpdatedAt.value <= tried.at) ? tried.packed : null
  }
  const near = (q: { dataUpdatedAt: { value: number } }) => computed(() => (wanted.value ? behind(q) : null))
  watch(
    () => wanted.value && (behind(geometry) !== null || behind(lines) !== null),
    (shows) => shows || (bench.finishedNear.value = null),
  )
  return { surface, told, geometry: shown(geometry), lines: shown(lines), nearGeometry: near(geometry), nearLines: near(lines) }
}
