/** The project's junctions: as saved, and those that a drag changes as they would be; which one is looked at. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import { api, type AppError } from '@/api/client'
import type { Acted, CornerRow, CornerShape, JunctionRow, JunctionSight, Junctions, MeetingOffer, Project } from '@/api/types'
import { newest } from '@/composables/newest'
import { useTold } from '@/stores/told'
import { useUi } from '@/stores/ui'
import type { useActs } from './acts'

const areaOf = (junction: JunctionRow) => junction.patches.reduce((sum, p) => sum + p.area, 0)

interface CornersWish {
  junction: number
  roads: number[]
  shape: Partial<CornerShape>
}

export function useJunctions(
  project: Ref<Project | null>,
  tried: Ref<Map<number, JunctionRow>>,
  near: { askNear: (path: string, body: unknown, idle: () => boolean) => void; endNear: () => void },
) {
  const ui = useUi()
  const told = useTold()
  const query = useQuery({
    queryKey: computed(() => ['junctions', project.value?.id, project.value?.ledger.head ?? '']),
    queryFn: ({ signal }) => api.get<Junctions>(`/projects/${project.value!.id}/junctions`, signal),
    enabled: computed(() => (project.value?.roads.length ?? 0) > 1),
    placeholderData: (before) => before,
    structuralSharing: false,
  })
  /** What a drag that was saved had shown last, until what is saved has come: nothing jumps back in between. */
  const lingering = shallowRef<Map<number, JunctionRow>>(new Map())
  let triedOver = '' // the state of the project
  watch(
    tried,
    (now, before) => {
      const head = project.value?.ledger.head ?? ''
      if (now.size) triedOver = head
      else if (before.size && triedOver !== head && query.isFetching.value) lingering.value = before
    },
    { flush: 'sync' },
  )
  watch(query.isFetching, (on) => on || (lingering.value = new Map()), { flush: 'sync' })
  const junctions = computed(() => {
    const there = new Set(project.value?.roads.map((r) => r.id))
    // a drag tells no findings: those that are known stay; and of layers only the area changes
    const now = (j: JunctionRow) => {
      const row = tried.value.get(j.id) ?? lingering.value.get(j.id)
      if (!row) return j
      const grown = areaOf(row) / Math.max(areaOf(j), 1e-9)
      const layers = j.layers.map((l) => ({ ...l, volume: l.volume * grown }))
      return { ...row, layers, findings: j.findings, edge_fall_read: j.edge_fall_read }
    }
    return (query.data.value?.junctions ?? []).filter((j) => there.has(j.main)).map(now)
  })
  const offers = computed(() => query.data.value?.offers ?? [])
  /** The junction that is looked at: that of the active road if it is a corner, else the one last chosen. */
  const chosenId = ref<number | null>(null)
  const course = computed(() => project.value?.roads.find((r) => r.id === ui.roadId)?.course ?? null)
  watch(course, (c) => c?.kind === 'return' && (chosenId.value = c.junction), { immediate: true })
  const junction = computed(() => junctions.value.find((j) => j.id === chosenId.value) ?? null)
  const corner = computed(() => junction.value?.corners.find((c) => c.road_id === ui.roadId) ?? null)

  /** What a driver sees who waits on the side road of the chosen junction. */
  const sightQuery = useQuery({
    queryKey: computed(() => ['junction-sight', chosenId.value, project.value?.ledger.head ?? '']),
    queryFn: ({ signal }) => api.get<JunctionSight>(`/junctions/${chosenId.value}/sight`, signal),
    enabled: computed(() => ui.stage === 'junctions' && junction.value !== null),
    structuralSharing: false,
    retry: false,
  })
  const sight = computed(() => (junction.value && sightQuery.data.value) || null)

  const trials = newest<CornersWish, JunctionRow>(
    ({ junction: id, roads, shape }, signal) => api.post<JunctionRow>(`/junctions/${id}/trial`, { roads, shape }, signal),
    (row, { junction: id, roads, shape }) => {
      near.askNear(`/junctions/${id}/trial`, { roads, shape }, trials.idle)
      const last = junctions.value.find((j) => j.id === row.id)
      tried.value = new Map(tried.value).set(row.id, last && row.problems.length ? { ...last, problems: row.problems } : row)
    },
    (error) => told.tell((error as AppError).message, { kind: 'wrong', seconds: 4 }),
  )
  /** How the junction would be with other values of some corners; what does not fit keeps the last picture and says why. */
  const tryCorners = (junctionId: number, corners: CornerRow[], shape: Partial<CornerShape>) =>
    trials.ask({ junction: junctionId, roads: corners.map((c) => c.road_id), shape })
  function endCornerTrial() {
    trials.cancel()
    near.endNear()
    tried.value = new Map()
  }
  return { junctions, offers, junction, corner, junctionSight: sight, chosenJunction: chosenId, tryCorners, endCornerTrial }
}

type Joining = MeetingOffer | { side: number; place?: [number, number]; points?: [number, number][] }

/** Makes a junction, at a place that is offered or with an existing edge, and looks at it. */
export function useJoin(projectId: number, act: ReturnType<typeof useActs>['act'], chosen: Ref<number | null>) {
  async function join(at: 'junctions' | 'existing-edges', wish: Joining) {
    const body = 'main' in wish ? { main: wish.main, side: wish.side, place: wish.place } : wish
    type Made = Acted & { junction_id: number }
    const done = (await act(() => api.post<Made>(`/projects/${projectId}/${at}`, body))) as Made | null
    if (done) chosen.value = done.junction_id
    return done !== null
  }
  return { join }
}
