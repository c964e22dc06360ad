/** The open project and its active road: what the server said, a trial over it, and the acts that change it. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { until, useEventListener, useThrottleFn } from '@vueuse/core'
import { computed, inject, nextTick, provide, ref, shallowRef, watch, type InjectionKey } from 'vue'
import { api, AppError, type Packed } from '@/api/client'
import type { Acted, LightRoad, Project, RoadDesign, Section } from '@/api/types'
import { countedAt, stationsOf } from '@/lib/chainage'
import { formatStation } from '@/lib/format'
import { useTold } from '@/stores/told'
import { useUi } from '@/stores/ui'
import { makeBursts } from './burst'
import { newest } from './newest'

export interface TrialValues {
  pi?: { index: number; insert?: boolean; easting?: number; northing?: number; radius?: number; spiral_in?: number; spiral_out?: number }
  pvi?: { id: number; station?: number; elevation?: number; half_in?: number; half_out?: number }
  bend?: { pi_id: number; rate?: number; level_in?: number; full_in?: number; full_out?: number; level_out?: number }
}

/** What a trial says first; what it leaves out is as it was. */
type TrialShape = Partial<RoadDesign>

const LOOK = 1200 // ms between looks for other people's changes
const FOUND = 200 // ms between findings drawn while something is dragged
const DRAWN = 2000 // ms after which an act no longer waits for its design to be drawn: another road or a later act took its place

function makeWorkbench(projectId: number) {
  const ui = useUi()
  const told = useTold()
  const client = useQueryClient()
  const trial = shallowRef<RoadDesign | null>(null)
  const acting = ref(0)

  const projectQuery = useQuery({
    queryKey: ['project', projectId],
    queryFn: () => api.get<Project>(`/projects/${projectId}`),
    structuralSharing: true,
  })
  const project = computed(() => projectQuery.data.value ?? null)
  /** A small look at which state the project is in; the project itself is fetched when that is another one. */
  const headQuery = useQuery({
    queryKey: ['head', projectId],
    queryFn: () => api.get<{ head: string; here: string[] }>(`/projects/${projectId}/head`),
    refetchInterval: LOOK,
    enabled: computed(() => project.value !== null),
  })
  /** Names of the other people who look at the project now. */
  const here = computed(() => headQuery.data.value?.here ?? [])
  watch(() => [headQuery.data.value?.head, trial.value === null && !acting.value] as const, ([head, free]) => {
    if (free && head !== undefined && Number(head) > Number(project.value?.ledger.head ?? head)) void client.invalidateQueries({ queryKey: ['project', projectId] }) // nothing disturbs a drag
  })
  const road = computed(() => project.value?.roads.find((r) => r.id === ui.roadId) ?? null)
  const surface = computed(() => {
    const all = project.value?.surfaces ?? []
    const looked = ui.stage === 'ground' ? all.find((s) => s.id === ui.surfaceId) : undefined
    return looked ?? all.find((s) => s.id === road.value?.surface_id) ?? all[0] ?? null
  })
  const template = computed(() => project.value?.templates.find((t) => t.id === road.value?.template_id) ?? null)
  const sheets = computed(() => project.value?.sheet_sets.find((s) => s.road_id === ui.roadId) ?? null)
  const canEdit = computed(() => project.value?.role !== 'viewer')
  const style = computed(() => ({ group: project.value?.settings.chainage_group ?? 1000, word: project.value?.settings.chainage_word ?? 'Chainage' }))
  const equations = computed(() => road.value?.equations ?? [])
  /** A station as people read it, with the road's chainage equations. */
  const station = (s: number, decimals = 2) => formatStation(countedAt(s, equations.value), style.value, decimals)
  /** The station of a typed chainage: of two places with the same chainage the one nearer to the reading mark; null in a gap. */
  function stationOf(chainage: number): number | null {
    if (!equations.value.length) return chainage
    const [a, b] = limits.value
    const found = stationsOf(chainage, equations.value, [a, b])
    if (found.length) return found.reduce((best, s) => (Math.abs(s - ui.mark) < Math.abs(best - ui.mark) ? s : best))
    return chainage > countedAt(a, equations.value) && chainage < countedAt(b, equations.value) ? null : chainage <= a ? chainage : chainage - (countedAt(b, equations.value) - b)
  }

  watch(
    () => project.value?.roads,
    (roads) => {
      if (roads && !roads.some((r) => r.id === ui.roadId)) ui.roadId = roads[0]?.id ?? null
    },
    { immediate: true },
  )

  /** How wide the project is, m: the greatest side of all that was measured; 10 km before there is anything. */
  const extent = computed(() => {
    const boxes = (project.value?.surfaces ?? []).flatMap((s) => s.sources.map((q) => q.extent))
    if (!boxes.length) return 10_000
    const low = [0, 1].map((k) => Math.min(...boxes.map((b) => b[k]!))), high = [2, 3].map((k) => Math.max(...boxes.map((b) => b[k]!)))
    return Math.max(high[0]! - low[0]!, high[1]! - low[1]!, 100)
  })

  // --- the saved design, and a trial over it ------------------------------------------------------------
  const designQuery = useQuery({
    queryKey: computed(() => ['design', ui.roadId, project.value?.ledger.head ?? '']),
    queryFn: () => api.get<RoadDesign>(`/roads/${ui.roadId}/design`),
    enabled: computed(() => ui.roadId !== null && project.value !== null),
    placeholderData: (before) => (before?.road_id === ui.roadId ? before : undefined),
    structuralSharing: false,
    shallow: true, // large and never changed in place: no proxies around every number
  })
  const saved = computed(() => (designQuery.data.value?.road_id === ui.roadId ? designQuery.data.value : null))
  const lastGood = shallowRef<RoadDesign | null>(null)
  watch(saved, (now, before) => {
    if (now && before && now.road_id !== before.road_id) lastGood.value = null
    if (now) lastGood.value = keepGood(now, lastGood.value?.road_id === now.road_id ? lastGood.value : null)
  }, { flush: 'sync' })

  /** What failed keeps its last good value; `problems` says why. */
  function keepGood(now: RoadDesign, before: RoadDesign | null): RoadDesign {
    if (!before || !Object.keys(now.problems).length) return now
    const good = { ...now }
    const p = now.problems
    if (p.line) Object.assign(good, { line: before.line, ground: before.ground, crossfall: before.crossfall })
    if (p.line || p.levels) Object.assign(good, { levels: before.levels, pvis: before.pvis })
    if (p.line || p.levels || p.road) Object.assign(good, { edges: before.edges, earthwork: before.earthwork, section: before.section, findings: before.findings, departures: before.departures })
    return good
  }
  const design = computed<RoadDesign | null>(() => {
    if (trial.value && trial.value.road_id === ui.roadId) return keepGood(trial.value, lastGood.value)
    return lastGood.value?.road_id === ui.roadId ? lastGood.value : saved.value
  })
  const problems = computed(() => (trial.value ?? saved.value)?.problems ?? {})
  /** Whether what the road is has come from the server, so that what is missing is missing. */
  const settled = computed(() => project.value !== null && (!project.value.roads.length || saved.value !== null || designQuery.isError.value))
  const renewing = computed(() => designQuery.isFetching.value && !saved.value)
  const trialMs = ref(0)
  let asked = 0
  let drags = 0 // ended ones
  let streams = 0 // answers begun; only the newest one's further lines are shown
  let judged = '' // the findings that are shown, as they came
  const trials = newest<TrialValues, { shape: TrialShape; more: AsyncGenerator<string> }>(
    async (values, signal) => {
      asked = performance.now()
      const more = api.lines(`/roads/${ui.roadId}/trial`, { ...values, mark: ui.mark, key: saved.value?.key, outline_only: !ui.planNear }, signal)
      return { shape: JSON.parse((await more.next()).value as string) as TrialShape, more }
    },
    ({ shape, more }) => {
      // a trial that leaves the line alone is sent without it; findings follow, and those shown stay until then
      const { pis, line, ground } = saved.value!
      const { findings, departures } = trial.value ?? saved.value!
      trial.value = { findings, departures, ...(shape.pis ? {} : { pis, line, ground }), ...shape } as RoadDesign
      trialMs.value = performance.now() - asked
      judge(more, drags, ++streams).catch(trialFailed)
    },
    trialFailed,
  )
  /** Findings are drawn a few times a second at most: a drag should feel its shape first. */
  const found = useThrottleFn((text: string, drag: number) => {
    if (drag !== drags || !trial.value || text === judged) return
    judged = text
    const { findings, departures, problems } = JSON.parse(text) as Pick<RoadDesign, 'findings' | 'departures' | 'problems'>
    trial.value = { ...trial.value, findings, departures, problems: { ...trial.value.problems, ...problems } }
  }, FOUND, true)
  /** Roads that hang on the dragged one, as they would be. */
  const triedOthers = shallowRef<Map<number, LightRoad>>(new Map())
  async function judge(more: AsyncGenerator<string>, drag: number, stream: number) {
    for await (const text of more) {
      if (!text) continue
      if (!text.startsWith('{"dependent"')) void found(text, drag)
      else if (drag === drags && stream === streams && trial.value) {
        const road = JSON.parse(text) as LightRoad
        triedOthers.value = new Map(triedOthers.value).set(road.road_id, road)
      }
    }
  }
  function trialFailed(error: unknown) {
    if ((error as Error).name !== 'AbortError') told.tell((error as AppError).message, { kind: 'wrong', seconds: 4 })
  }
  function tryOut(values: TrialValues) {
    if (ui.roadId !== null) trials.ask(values)
  }
  function endTrial() {
    trials.cancel()
    trial.value = null
    triedOthers.value = new Map()
    judged = ''
    drags++
  }

  // --- the other roads ----------------------------------------------------------------------------------
  const othersQuery = useQuery({
    queryKey: computed(() => ['roads-lightly', projectId, project.value?.ledger.head ?? '']),
    queryFn: () => api.get<LightRoad[]>(`/projects/${projectId}/roads-lightly`),
    enabled: computed(() => (project.value?.roads.length ?? 0) > 1),
    placeholderData: (before) => before,
    structuralSharing: false,
    shallow: true,
  })
  /** All roads but the active one, those that hang on a drag as they would be. */
  const others = computed(() => (othersQuery.data.value ?? []).filter((r) => r.road_id !== ui.roadId && project.value?.roads.some((q) => q.id === r.road_id)).map((r) => triedOthers.value.get(r.road_id) ?? r))
  /** Why a road that hangs on the dragged one would not compute. */
  const othersWrong = computed(() => {
    const wrong = [...triedOthers.value.values()].find((r) => Object.keys(r.problems).length)
    return wrong ? `${wrong.name} hangs on this road: ${Object.values(wrong.problems)[0]}` : ''
  })

  // --- the section at the reading mark ------------------------------------------------------------------
  const fetched = shallowRef<{ section: Section; key: string } | null>(null)
  const sectionProblem = ref('')
  const sections = newest<{ road: number; station: number; key: string }, Section>(
    (a, signal) => api.get<Section>(`/roads/${a.road}/section?station=${a.station}`, signal),
    (section, a) => {
      fetched.value = { section, key: `${a.road}` }
      sectionProblem.value = ''
    },
    (error) => (sectionProblem.value = (error as AppError).message),
  )
  watch(
    () => [ui.roadId, ui.mark, saved.value?.key, trial.value !== null] as const,
    ([id, mark, key, trying]) => {
      if (id !== null && key && !trying && saved.value?.levels && saved.value.earthwork) sections.ask({ road: id, station: mark, key })
    },
    { immediate: true },
  )
  const section = computed(() => trial.value?.section ?? (fetched.value?.key === `${ui.roadId}` ? fetched.value.section : null))

  // --- the ground ---------------------------------------------------------------------------------------
  const terrainQuery = useQuery({
    queryKey: computed(() => ['terrain', surface.value?.key]),
    queryFn: () => api.geometry(`/surfaces/${surface.value!.id}/geometry`),
    enabled: computed(() => !!surface.value?.sources.length),
    staleTime: Infinity,
    structuralSharing: false,
    shallow: true, // large and never changed in place: no proxies around every number
    placeholderData: (before) => before,
  })
  const contoursQuery = useQuery({
    queryKey: computed(() => ['contours', surface.value?.key, ui.contours.interval, ui.contours.rounded]),
    queryFn: () => api.geometry(`/surfaces/${surface.value!.id}/contours?interval=${ui.contours.interval}&rounded=${ui.contours.rounded}`),
    enabled: computed(() => !!surface.value?.sources.length),
    staleTime: Infinity,
    structuralSharing: false,
    shallow: true, // large and never changed in place: no proxies around every number
    placeholderData: (before) => before,
  })
  const terrain = computed<Packed | null>(() => (surface.value?.sources.length ? (terrainQuery.data.value ?? null) : null))
  const contours = computed<Packed | null>(() => (surface.value?.sources.length ? (contoursQuery.data.value ?? null) : null))

  /** Arrow presses on handles; saved before any other act, undo and redo. */
  const bursts = makeBursts()
  useEventListener(window, ['pointerdown', 'focusout'], () => void bursts.settle(), { capture: true })
  /** What is being drawn, by whoever draws: takes its last point back, and says whether there was one. */
  const drawing: (() => boolean)[] = []
  const takeBack = () => drawing.some((last) => last())

  // --- acts ---------------------------------------------------------------------------------------------
  /** The project and the active road's design as they are now; what is drawn has them when this is done. */
  async function refresh() {
    await client.invalidateQueries({ queryKey: ['project', projectId] })
    const id = ui.roadId
    if (id === null) return
    const head = client.getQueryData<Project>(['project', projectId])?.ledger.head ?? ''
    // a road that has just gone has no design; its own query says so
    const fresh = await client.fetchQuery({ queryKey: ['design', id, head], queryFn: () => api.get<RoadDesign>(`/roads/${id}/design`), structuralSharing: false }).catch(() => null)
    if (fresh) await until(saved).toBe(fresh, { flush: 'sync', timeout: DRAWN })
    await nextTick()
  }
  /** Do one act; says what happened. Returns null when it was not done, and then `failure` has why. */
  const failure = ref<AppError | null>(null)
  let before: Promise<unknown> = Promise.resolve() // acts wait for one another, so that each sees the revisions the last one made
  function act(run: () => Promise<Acted>, options: { quiet?: boolean; silentFailure?: boolean } = {}): Promise<Acted | null> {
    void bursts.settle() // its act comes first
    const mine = before.then(() => doOne(run, options))
    before = mine.catch(() => null)
    return mine
  }
  async function doOne(run: () => Promise<Acted>, options: { quiet?: boolean; silentFailure?: boolean }): Promise<Acted | null> {
    acting.value++
    failure.value = null
    try {
      const done = await run()
      await refresh()
      if (!options.quiet || done.told.length) told.tell(done.label, { more: done.told, canUndo: true })
      return done
    } catch (error) {
      if (!(error instanceof AppError)) throw error
      failure.value = error
      if (error.status === 409 || error.status === 404) await refresh()
      if (!options.silentFailure) told.tell(error.message, { kind: 'wrong', go: wayTo(error) })
      return null
    } finally {
      acting.value--
      endTrial()
      bursts.again()
    }
  }
  /** The road that stands in the way of an act, if that is why it was refused. */
  function wayTo(error: AppError) {
    const { road_id: id, road: name } = error.details as { road_id?: number; road?: string }
    return id === undefined ? undefined : { label: `Go to ${name}`, run: () => (ui.roadId = id) }
  }
  /** The revision of a PI or PVI to name in an act: as saved when the act's turn comes, not when its drag or typing began. */
  const revisionOf = (row: { id: number | null; revision: number }, of: 'pis' | 'pvis') => saved.value?.[of].find((q) => q.id === row.id)?.revision ?? row.revision
  /** Ids and revisions of the profile's PVIs as saved, for acts that replace them all. */
  const pvisSeen = () => saved.value?.pvi_rows ?? []
  async function step(which: 'undo' | 'redo') {
    await bursts.settle()
    try {
      const done = await api.post<Acted>(`/projects/${projectId}/${which}`)
      await refresh()
      told.tell(done.told[0] ?? done.label, { canUndo: false, seconds: 4 })
    } catch (error) {
      if (!(error instanceof AppError)) throw error
      told.tell(error.message, { kind: 'wrong', go: wayTo(error) })
    }
  }

  // --- the chosen PI ------------------------------------------------------------------------------------
  /** Choose a PI by its place in the line; it stays chosen by its id, wherever others put it. */
  function choosePi(index: number) {
    const pi = design.value?.pis[index]
    ui.selection = pi ? { kind: 'pi', index, id: pi.id } : null
  }
  watch(() => saved.value?.pis, (pis) => {
    const chosen = ui.selection
    if (chosen?.kind !== 'pi' || !pis || chosen.id === null) return
    const index = pis.findIndex((p) => p.id === chosen.id)
    if (index !== chosen.index) ui.selection = index < 0 ? null : { ...chosen, index }
  })

  // --- the reading mark ---------------------------------------------------------------------------------
  const limits = computed<[number, number]>(() => {
    const line = design.value?.line
    return line ? [line.start, line.end] : [0, 0]
  })
  function setMark(s: number) {
    const [a, b] = limits.value
    if (b > a && Number.isFinite(s)) ui.mark = Math.min(Math.max(s, a), b)
  }
  watch(limits, () => setMark(ui.mark))

  return {
    projectId, project, projectQuery, here, road, surface, template, sheets, canEdit, style, station, stationOf, equations, extent, design, saved, trial, problems, renewing, settled, trialMs, tryOut, endTrial, others, othersWrong,
    section, sectionProblem, terrain, terrainQuery, contours, contoursQuery, act, acting, failure, bursts, drawing, takeBack, revisionOf, pvisSeen, choosePi, step, refresh, limits, setMark,
  }
}

export type Workbench = ReturnType<typeof makeWorkbench>
const KEY: InjectionKey<Workbench> = Symbol('workbench')

export function provideWorkbench(projectId: number): Workbench {
  const bench = makeWorkbench(projectId)
  provide(KEY, bench)
  return bench
}

/** The open project, or null outside of one. */
export const useWorkbenchIfAny = (): Workbench | null => inject(KEY, null)

export function useWorkbench(): Workbench {
  const bench = inject(KEY)
  if (!bench) throw new Error('no project is open here')
  return bench
}
