/** Acts: one after another, each told, each seen by everything drawn when it is done. Objects are changed by name and id; the revision
 * that goes along is the one that is saved when the act's turn comes. */
import { useQueryClient } from '@tanstack/vue-query'
import { until, useEventListener } from '@vueuse/core'
import { nextTick, ref, type Ref } from 'vue'
import { api, AppError, isBroken } from '@/api/client'
import type { Acted, Changes, Project, RoadDesign } from '@/api/types'
import { makeBursts } from '@/composables/burst'
import { useConnection } from '@/stores/connection'
import { useTold } from '@/stores/told'
import { useUi } from '@/stores/ui'

const DRAWN = 2000 // ms after which an act no longer waits for its design to be drawn: another road or a later act took its place

export interface ActOptions {
  quiet?: boolean
  silentFailure?: boolean
}
export type ObjectKind = keyof Changes

interface Around {
  projectId: number
  project: Ref<Project | null>
  saved: Ref<RoadDesign | null>
  acting: Ref<number>
  endTrial: () => void
}

/** Where an object of a kind is, and which revision of it is seen. What belongs to a road is addressed through the active one. */
function makeObjects({ projectId, project, saved }: Around) {
  const ui = useUi()
  const by = (rows: { id: number | null; revision: number }[] | undefined, id: number) => rows?.find((r) => r.id === id)?.revision
  const road = () => by(project.value?.roads, ui.roadId ?? -1)
  const surveys = () => project.value?.surfaces.flatMap((s) => s.sources)
  const kinds: Record<ObjectKind, { path: (id: number) => string; revision: (id: number) => number | undefined }> = {
    project: { path: () => `/projects/${projectId}`, revision: () => project.value?.revision },
    road: { path: (id) => `/roads/${id}`, revision: (id) => by(project.value?.roads, id) },
    pi: { path: (id) => `/roads/${ui.roadId}/pis/${id}`, revision: (id) => by(saved.value?.pis, id) },
    pvi: { path: (id) => `/roads/${ui.roadId}/pvis/${id}`, revision: (id) => by(saved.value?.pvis, id) },
    variation: { path: (id) => `/roads/${ui.roadId}/variations/${id}`, revision: (id) => by(saved.value?.along, id) },
    crossfall: { path: (id) => `/roads/${id}/crossfall`, revision: road },
    bend: { path: (id) => `/roads/${ui.roadId}/crossfall/${id}`, revision: road },
    parallel: { path: (id) => `/roads/${id}/offset`, revision: road },
    surface: { path: (id) => `/surfaces/${id}`, revision: (id) => by(project.value?.surfaces, id) },
    survey: { path: (id) => `/survey-sets/${id}`, revision: (id) => by(surveys(), id) },
    junction: { path: (id) => `/junctions/${id}`, revision: (id) => by(project.value?.junctions, id) },
    part: { path: (id) => `/parts/${id}`, revision: (id) => by(project.value?.parts, id) },
    structure: { path: (id) => `/structures/${id}`, revision: (id) => by(project.value?.structures, id) },
    template: { path: (id) => `/templates/${id}`, revision: (id) => by(project.value?.templates, id) },
    sheets: { path: (id) => `/sheet-sets/${id}`, revision: (id) => by(project.value?.sheet_sets, id) },
  }
  return (kind: ObjectKind, id: number, below = '') => ({
    path: kinds[kind].path(id) + (below && `/${below}`),
    revision: () => kinds[kind].revision(id) ?? 0, // of what is gone; the server says so
  })
}

export function useActs(around: Around) {
  const { projectId, saved, acting } = around
  const ui = useUi()
  const told = useTold()
  const connection = useConnection()
  const client = useQueryClient()
  const objectAt = makeObjects(around)

  /** Arrow presses on handles; saved before any other act, undo and redo. */
  const bursts = makeBursts()
  useEventListener(window, ['pointerdown', 'focusout'], () => void bursts.settle(), { capture: true })

  /** The project and the active road's design as they are now; what is drawn has them when this is done. */
  async function refresh() {
    await client.invalidateQueries({ queryKey: ['project', projectId] })
    const id = ui.roadId
    if (id === null) return
    const head = client.getQueryData<Project>(['project', projectId])?.ledger.head ?? ''
    const get = { queryKey: ['design', id, head], queryFn: () => api.get<RoadDesign>(`/roads/${id}/design`), structuralSharing: false }
    const fresh = await client.fetchQuery(get).catch(() => null) // a road that has just gone has no design; its own query says so
    if (fresh) await until(saved).toBe(fresh, { flush: 'sync', timeout: DRAWN })
    await nextTick()
  }
  /** Do one act; says what happened. Returns null when it was not done, and then `failure` has why. */
  const failure = ref<AppError | null>(null)
  let before: Promise<unknown> = Promise.resolve() // acts wait for one another, so that each sees the revisions the last one made
  function act(run: () => Promise<Acted>, options: ActOptions = {}): Promise<Acted | null> {
    void bursts.settle() // its act comes first
    const mine = before.then(() => doOne(run, options))
    before = mine.catch(() => null)
    return mine
  }
  async function doOne(run: () => Promise<Acted>, options: ActOptions): Promise<Acted | null> {
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
      if (isBroken(error)) {
        connection.hold(() => act(run, { ...options, silentFailure: false })) // it is said once, in one place, and can be done later
        return null
      }
      if (error.status === 409 || error.status === 404) await refresh()
      if (!options.silentFailure) told.tell(error.message, { kind: 'wrong', go: wayTo(error) })
      return null
    } finally {
      acting.value--
      around.endTrial()
      bursts.again()
    }
  }
  /** The road that stands in the way of an act, if that is why it was refused. */
  function wayTo(error: AppError) {
    const { road_id: id, road: name } = error.details as { road_id?: number; road?: string }
    return id === undefined ? undefined : { label: `Go to ${name}`, run: () => (ui.roadId = id) }
  }

  // --- objects by kind and id ---------------------------------------------------------------------------
  function change<K extends keyof Changes>(kind: K, id: number, fields: Changes[K], options?: ActOptions) {
    const at = objectAt(kind, id)
    return act(() => api.patch<Acted>(at.path, { revision: at.revision(), ...fields }), options)
  }
  function remove(kind: ObjectKind, id: number, options?: ActOptions, below?: string) {
    const at = objectAt(kind, id, below)
    return act(() => api.delete<Acted>(`${at.path}?revision=${at.revision()}`), options)
  }
  /** Put something of an object as a whole, e.g. a road's `speeds`. */
  function put(kind: ObjectKind, id: number, below: string, body: object, options?: ActOptions) {
    const at = objectAt(kind, id, below)
    return act(() => api.put<Acted>(at.path, { revision: at.revision(), ...body }), options)
  }
  /** Do something to an object, e.g. `reverse` a road. */
  function post(kind: ObjectKind, id: number, below: string, body: object = {}, options?: ActOptions) {
    const at = objectAt(kind, id, below)
    return act(() => api.post<Acted>(at.path, { revision: at.revision(), ...body }), options)
  }
  /** Values of some corners of a junction, by their roads. */
  function changeCorners(junction: number, corners: readonly number[], shape: object, options?: ActOptions) {
    const revision = (id: number) => around.project.value?.roads.find((r) => r.id === id)?.revision ?? 0
    const seen = () => Object.fromEntries(corners.map((id) => [id, revision(id)]))
    return act(() => api.patch<Acted>(`/junctions/${junction}/corners`, { roads: seen(), shape }), options)
  }
  /** Ids and revisions of the profile's PVIs as saved, for acts that replace them all. */
  const pvisSeen = () => saved.value?.pvi_rows ?? []

  /** After what is being saved, and before what is done next. */
  function step(which: 'undo' | 'redo'): Promise<void> {
    const settled = bursts.settle()
    const mine = Promise.all([settled, before]).then(() => doStep(which))
    before = mine.catch(() => null)
    return mine
  }
  async function doStep(which: 'undo' | 'redo') {
    try {
      const done = await api.post<Acted>(`/projects/${projectId}/${which}`)
      await refresh()
      told.tell(done.told[0] ?? done.label, { canUndo: false, seconds: 4 })
    } catch (error) {
      if (!(error instanceof AppError)) throw error
      if (!isBroken(error)) told.tell(error.message, { kind: 'wrong', go: wayTo(error) })
    }
  }
  return { bursts, refresh, failure, act, changeCorners, change, remove, put, post, pvisSeen, step }
}
