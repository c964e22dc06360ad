/** The active road's design: as saved, and as it is drawn, with a trial laid over it; what failed keeps its last good value. */
import { useQuery } from '@tanstack/vue-query'
import { computed, shallowRef, watch, type Ref } from 'vue'
import { api } from '@/api/client'
import type { Project, RoadDesign } from '@/api/types'
import { useUi } from '@/stores/ui'

/** What failed keeps its last good value; `problems` says why. */
export function keepGood(now: RoadDesign, before: RoadDesign | null): RoadDesign {
  if (!before || !Object.keys(now.problems).length) return now
  const good = { ...now }
  const p = now.problems
  if (p.line) Object.assign(good, { line: before.line, ground: before.ground, crossfall: before.crossfall })
  if (p.line || p.levels) Object.assign(good, { levels: before.levels, pvis: before.pvis })
  if (p.line || p.levels || p.road) {
    const { edges, earthwork, section, findings, departures } = before
    Object.assign(good, { edges, earthwork, section, findings, departures })
  }
  return good
}

export function useDesign(project: Ref<Project | null>, trial: Ref<RoadDesign | null>) {
  const ui = useUi()
  const query = useQuery({
    queryKey: computed(() => ['design', ui.roadId, project.value?.ledger.head ?? '']),
    queryFn: () => api.get<RoadDesign>(`/roads/${ui.roadId}/design`),
    enabled: computed(() => ui.roadId !== null && project.value !== null),
    placeholderData: (before) => (before?.road_id === ui.roadId ? before : undefined),
    structuralSharing: false,
  })
  const saved = computed(() => (query.data.value?.road_id === ui.roadId ? query.data.value : null))
  const lastGood = shallowRef<RoadDesign | null>(null)
  watch(
    saved,
    (now, before) => {
      if (now && before && now.road_id !== before.road_id) lastGood.value = null
      if (now) lastGood.value = keepGood(now, lastGood.value?.road_id === now.road_id ? lastGood.value : null)
    },
    { flush: 'sync' },
  )
  const design = computed<RoadDesign | null>(() => {
    if (trial.value && trial.value.road_id === ui.roadId) return keepGood(trial.value, lastGood.value)
    return lastGood.value?.road_id === ui.roadId ? lastGood.value : saved.value
  })
  const problems = computed(() => (trial.value ?? saved.value)?.problems ?? {})
  /** Whether what the road is has come from the server, so that what is missing is missing. */
  const settled = computed(() => project.value !== null && (!project.value.roads.length || saved.value !== null || query.isError.value))
  const renewing = computed(() => query.isFetching.value && !saved.value)

  // --- the chosen PI ------------------------------------------------------------------------------------
  /** Choose a PI by its place in the line; it stays chosen by its id, wherever others put it. */
  function choosePi(index: number) {
    const pi = design.value?.pis[index]
    ui.selection = pi ? { kind: 'pi', index, id: pi.id } : null
  }
  watch(
    () => saved.value?.pis,
    (pis) => {
      const chosen = ui.selection
      if (chosen?.kind !== 'pi' || !pis || chosen.id === null) return
      const index = pis.findIndex((p) => p.id === chosen.id)
      if (index !== chosen.index) ui.selection = index < 0 ? null : { ...chosen, index }
    },
  )
  return { saved, design, problems, settled, renewing, choosePi }
}
