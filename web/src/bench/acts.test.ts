/** Acts: by object, id and fields, one after another, each with the revision that is saved when its turn comes. */
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { createApp, ref, shallowRef } from 'vue'
import { api, AppError } from '@/api/client'
import type { Project, RoadDesign } from '@/api/types'
import { useTold } from '@/stores/told'
import { useUi } from '@/stores/ui'
import { useActs } from './acts'
import { keepGood } from './design'

const project = (revision: number) =>
  ({
    id: 4,
    revision: 30 + revision,
    roads: [{ id: 7, revision }],
    surfaces: [{ id: 2, revision: 5, sources: [{ id: 9, revision: 6 }] }],
    templates: [{ id: 3, revision: 8 }],
    sheet_sets: [{ id: 1, revision: 2 }],
    ledger: { head: `${revision}` },
  }) as unknown as Project
const design = (revision: number) =>
  ({
    road_id: 7,
    pis: [{ id: 12, revision: 100 + revision }],
    pvis: [{ id: 15, revision: 9 }],
    pvi_rows: [[15, 9]],
  }) as unknown as RoadDesign

function setUp() {
  const state = { project: shallowRef<Project | null>(project(1)), saved: shallowRef<RoadDesign | null>(design(1)) }
  const acting = ref(0)
  const endTrial = vi.fn()
  let acts!: ReturnType<typeof useActs>
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const app = createApp({
    setup() {
      acts = useActs({ projectId: 4, ...state, acting, endTrial })
      return () => null
    },
  })
  app.use(VueQueryPlugin, { queryClient: client }).mount(document.createElement('div'))
  // what the server has after an act comes with the next look
  vi.spyOn(api, 'get').mockImplementation(async () => {
    state.project.value = project(2)
    return (state.saved.value = design(2)) as never
  })
  return { acts, state, acting, endTrial, app }
}
const done = { label: 'Done', told: [] }

describe('acts', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    useUi().roadId = 7
  })
  afterEach(() => vi.restoreAllMocks())

  it('names where an object is and the revision that is seen of it', async () => {
    const { acts } = setUp()
    const calls: unknown[][] = []
    for (const way of ['patch', 'put', 'post'] as const)
      vi.spyOn(api, way).mockImplementation(async (path: string, body?: unknown) => (calls.push([way, path, body]), done) as never)
    vi.spyOn(api, 'delete').mockImplementation(async (path: string) => (calls.push(['delete', path]), done) as never)
    vi.mocked(api.get).mockRejectedValue(new AppError(0, 'offline', 'gone')) // what is seen stays
    await acts.change('pi', 12, { radius: 300 })
    await acts.change('surface', 2, { name: 'G' })
    await acts.change('survey', 9, { name: 'S' })
    await acts.change('template', 3, { side: 'left' })
    await acts.change('bend', 12, { rate: 0.05 })
    await acts.put('road', 7, 'speeds', { speeds: [] })
    await acts.post('pvi', 15, 'curve', { level: 3 })
    await acts.remove('sheets', 1)
    await acts.remove('surface', 2, {}, 'edits/0')
    expect(calls).toEqual([
      ['patch', '/roads/7/pis/12', { revision: 101, radius: 300 }],
      ['patch', '/surfaces/2', { revision: 5, name: 'G' }],
      ['patch', '/survey-sets/9', { revision: 6, name: 'S' }],
      ['patch', '/templates/3', { revision: 8, side: 'left' }],
      ['patch', '/roads/7/crossfall/12', { revision: 1, rate: 0.05 }], // a bend's is the road's
      ['put', '/roads/7/speeds', { revision: 1, speeds: [] }],
      ['post', '/roads/7/pvis/15/curve', { revision: 9, level: 3 }],
      ['delete', '/sheet-sets/1?revision=2'],
      ['delete', '/surfaces/2/edits/0?revision=5'],
    ])
  })
  it('keeps acts in a row: the second sees what the first has made', async () => {
    const { acts, acting } = setUp()
    const seen: unknown[] = []
    let release!: () => void
    const first = new Promise<void>((resolve) => (release = resolve))
    vi.spyOn(api, 'patch').mockImplementation(async (_path: string, body: unknown) => {
      seen.push(body)
      if (seen.length === 1) await first
      return done as never
    })
    const both = [acts.change('pi', 12, { radius: 1 }), acts.change('pi', 12, { radius: 2 })]
    await vi.waitFor(() => expect(seen).toHaveLength(1))
    expect(acting.value).toBe(1)
    release()
    await Promise.all(both)
    expect(seen).toEqual([
      { revision: 101, radius: 1 },
      { revision: 102, radius: 2 },
    ])
    expect(acting.value).toBe(0)
  })
  it('says why an act was refused, keeps the reason, ends the trial, and goes on with the next', async () => {
    const { acts, endTrial } = setUp()
    const refused = new AppError(422, 'tangents-overlap', 'The curves overlap.', {}, { road_id: 8, road: 'Side' })
    vi.spyOn(api, 'patch')
      .mockRejectedValueOnce(refused)
      .mockResolvedValue(done as never)
    expect(await acts.change('pi', 12, { radius: 9999 })).toBeNull()
    expect(acts.failure.value).toBe(refused)
    expect(endTrial).toHaveBeenCalledTimes(1)
    const told = useTold().list.at(-1)!
    expect([told.text, told.go?.label]).toEqual(['The curves overlap.', 'Go to Side'])
    told.go!.run()
    expect(useUi().roadId).toBe(8)
    useUi().roadId = 7
    expect(await acts.change('pi', 12, { radius: 10 })).toEqual(done)
    expect(acts.failure.value).toBeNull()
  })
  it('looks anew when somebody else was quicker, and stays silent where the field tells it', async () => {
    const { acts } = setUp()
    vi.spyOn(api, 'patch').mockRejectedValue(new AppError(409, 'changed-meanwhile', 'Ben has changed it.'))
    const before = useTold().list.length
    expect(await acts.change('pi', 12, { radius: 5 }, { silentFailure: true })).toBeNull()
    expect(api.get).toHaveBeenCalled()
    expect(useTold().list).toHaveLength(before)
    expect(acts.failure.value?.message).toBe('Ben has changed it.')
  })
  it('saves what is nudged before any other act, and before undo', async () => {
    const { acts } = setUp()
    const order: string[] = []
    vi.spyOn(api, 'patch').mockImplementation(async (path: string) => (order.push(path), done) as never)
    vi.spyOn(api, 'post').mockImplementation(async (path: string) => (order.push(path), done) as never)
    const nudge = () =>
      acts.bursts.press({ id: 'pi-12', tryOut: () => {}, save: async (v: number) => acts.change('pi', 12, { radius: v }) }, () => 1)
    nudge()
    await acts.change('road', 7, { name: 'R' })
    nudge()
    await acts.step('undo')
    expect(order).toEqual(['/roads/7/pis/12', '/roads/7', '/roads/7/pis/12', '/projects/4/undo'])
  })
  it('undoes what is being saved only when it is, and saves what comes next after that', async () => {
    const { acts } = setUp()
    const order: string[] = []
    let release = () => {}
    vi.spyOn(api, 'patch').mockImplementation((path: string) => {
      order.push(path)
      return new Promise((r) => (release = () => (order.push('saved'), r(done as never))))
    })
    vi.spyOn(api, 'post').mockImplementation(async (path: string) => (order.push(path), done) as never)
    const first = acts.change('pi', 12, { radius: 5 })
    const undone = acts.step('undo')
    const next = acts.change('road', 7, { name: 'R' })
    await vi.waitFor(() => expect(order).toEqual(['/roads/7/pis/12']))
    release()
    await Promise.all([first, undone])
    await vi.waitFor(() => expect(order.at(-1)).toBe('/roads/7'))
    release()
    await next
    expect(order).toEqual(['/roads/7/pis/12', 'saved', '/projects/4/undo', '/roads/7', 'saved'])
  })
})

describe('the last good picture', () => {
  const good = {
    line: 'L',
    ground: 'G',
    levels: 'Z',
    pvis: ['p'],
    edges: 'E',
    earthwork: 'W',
    section: 'S',
    findings: ['f'],
    departures: [],
    crossfall: 'C',
    problems: {},
  }
  const now = (problems: Record<string, unknown>) =>
    ({
      line: null,
      ground: [],
      levels: null,
      pvis: [],
      edges: null,
      earthwork: null,
      section: null,
      findings: [],
      departures: [],
      crossfall: null,
      problems,
    }) as unknown as RoadDesign
  const kept = (problems: Record<string, unknown>) => keepGood(now(problems), good as unknown as RoadDesign) as unknown as typeof good

  it('keeps what a failed step cannot give, and no more', () => {
    expect(kept({})).toMatchObject({ line: null, levels: null })
    expect(kept({ road: {} })).toMatchObject({ line: null, levels: null, edges: 'E', earthwork: 'W', findings: ['f'] })
    expect(kept({ levels: {} })).toMatchObject({ line: null, levels: 'Z', pvis: ['p'], section: 'S' })
    expect(kept({ line: {} })).toMatchObject({
      line: 'L',
      ground: 'G',
      crossfall: 'C',
      levels: 'Z',
      earthwork: 'W',
      problems: { line: {} },
    })
    expect(keepGood(now({ line: {} }), null).line).toBeNull() // there is none before the first
  })
})
