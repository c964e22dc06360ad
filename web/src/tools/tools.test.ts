/** Tools as state machines, driven by the places and keys they get. */
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, ref } from 'vue'
import { api } from '@/api/client'
import type { EditRow, GroundPick } from '@/api/types'
import type { Ground } from '@/composables/useGround'
import type { Workbench } from '@/composables/workbench'
import { useTold } from '@/stores/told'
import { useUi } from '@/stores/ui'
import { groundTools, useGroundWork } from './ground'
import { useGroundGrips } from './ground/grips'
import { placeAmong } from './plan/addPi'
import { drawRoad } from './plan/drawRoad'
import type { PlanContext } from './plan'
import { removeChosen } from './remove'

const press = { x: 0, y: 0, button: 0, ctrl: false, shift: false }
const surface = ref({
  id: 7,
  revision: 3,
  key: 'k',
  sources: [{}],
  label_paths: [
    [
      [0, 0],
      [10, 0],
    ],
  ] as [number, number][][],
})
const edits: EditRow[][] = []
const changed: unknown[][] = []

function setUp(answers: Record<string, unknown> = {}) {
  vi.spyOn(api, 'get').mockImplementation(async (path: string) => {
    const found = Object.entries(answers).find(([part]) => path.includes(part))
    return (found ? found[1] : null) as never
  })
  const bench = {
    canEdit: ref(true),
    surface,
    project: ref({ ledger: { head: '1' }, roads: [{}, {}] }),
    projectId: 4,
    act: async (run: () => Promise<unknown>) => run(),
    change: async (...what: unknown[]) => (changed.push(what), {}),
    remove: async (...what: unknown[]) => (changed.push(['remove', ...what]), {}),
  } as unknown as Workbench
  const ground = { surface, edit: async (given: EditRow[]) => (edits.push(given), { label: '', told: [] }) } as unknown as Ground
  return effectScope().run(() => {
    const work = useGroundWork(bench, ground, () => ({ e: 0, n: 0, scale: 2, width: 400, height: 300 }))
    const tools = Object.fromEntries(groundTools(work).map((t) => [t.id, t]))
    return { bench, work, tool: (id: string) => tools[id]!, grips: useGroundGrips(work) }
  })!
}
beforeEach(() => {
  setActivePinia(createPinia())
  vi.restoreAllMocks()
  edits.length = changed.length = 0
  useUi().stage = 'ground'
})

describe('tools on the ground', () => {
  it('chooses the nearest point within ten pixels, or nothing', async () => {
    const pick: GroundPick = { kind: 'point', survey: 4, point: 11, place: [1, 2, 3] }
    const { work, grips } = setUp({ nearest: pick })
    await work.choose({ e: 1.2, n: 2.1 })
    expect(vi.mocked(api.get).mock.calls[0]![0]).toBe('/surfaces/7/nearest?e=1.2&n=2.1&within=5')
    expect(grips.pick.value).toEqual(pick)
    vi.mocked(api.get).mockResolvedValue(null as never)
    await work.choose({ e: 50, n: 50 })
    expect(grips.pick.value).toBeNull()
  })
  it('adds a point at the level of the ground, and says why it cannot outside', async () => {
    await setUp({ reading: { elevation: 61.23456 } }).tool('add-point').click!({ e: 5, n: 6 }, press)
    expect(edits).toEqual([[{ do: 'add_point', to: [5, 6, 61.235] }]])
    await setUp({ reading: { elevation: null } }).tool('add-point').click!({ e: 5, n: 6 }, press)
    expect(edits).toHaveLength(1)
    expect(useTold().list.at(-1)!.text).toContain('no ground here')
  })
  it('joins points by their exact places, and a double click ends the line once', async () => {
    const join = setUp({ nearest: { kind: 'point', survey: 4, point: 1, place: [1.001, 2.002, 55.5] } }).tool('join')
    await join.click!({ e: 1, n: 2 }, press)
    vi.mocked(api.get).mockImplementation(async (path: string) => (path.includes('reading') ? { elevation: 60 } : null) as never)
    await join.click!({ e: 30, n: 40 }, press)
    await join.click!({ e: 30, n: 40 }, press)
    await join.finish!()
    expect(edits).toEqual([
      [
        {
          do: 'add_line',
          vertices: [
            [1.001, 2.002, 55.5],
            [30, 40, 60],
          ],
        },
      ],
    ])
    expect(join.drawn!()).toEqual([])
  })
  it('takes points back one by one, lets all go at once, and says whether there was anything', async () => {
    const join = setUp({ reading: { elevation: 60 } }).tool('join')
    expect([join.takeBack!(), join.cancel!()]).toEqual([false, false])
    for (const e of [1, 2, 3]) await join.click!({ e, n: 0 }, press)
    expect(join.takeBack!()).toBe(true)
    expect(join.drawn!()).toEqual([
      { e: 1, n: 0 },
      { e: 2, n: 0 },
    ])
    expect(join.cancel!()).toBe(true)
    await join.finish!()
    expect(edits).toEqual([])
  })
  it('refuses a breakline that leaves the ground, in words', async () => {
    const join = setUp({ reading: { elevation: null } }).tool('join')
    await join.click!({ e: 1, n: 2 }, press)
    await join.click!({ e: 9, n: 9 }, press)
    await join.finish!()
    expect(edits).toEqual([])
    expect(useTold().list.at(-1)!.text).toContain('needs a level at every vertex')
  })
  it('keeps the level of what it moves', async () => {
    const { grips } = setUp()
    useUi().selection = { kind: 'ground', pick: { kind: 'vertex', survey: 2, line: 5, vertex: 1, place: [10, 20, 30] } }
    const pick = grips.pickGrip()!
    await pick.save!(pick.to({ e: 11, n: 22 }, press))
    expect(edits).toEqual([[{ do: 'move_vertex', survey: 2, line: 5, vertex: 1, to: [11, 22, 30] }]])
    expect(useUi().selection).toMatchObject({ pick: { place: [11, 22, 30] } })
  })
  it('adds a label path to those that are there, moves a vertex of one, and takes one away', async () => {
    const { bench, grips, tool } = setUp()
    const path = tool('label-path')
    await path.click!({ e: 1, n: 1 }, press)
    await path.click!({ e: 2, n: 2 }, press)
    await path.finish!()
    const knot = grips.knotGrip(0, 1)!
    await knot.save!(knot.to({ e: 12.00049, n: 3 }, press))
    useUi().selection = { kind: 'path', index: 0 }
    await removeChosen(bench)
    expect(changed.map(([kind, id, fields]) => [kind, id, fields])).toEqual([
      [
        'surface',
        7,
        {
          label_paths: [
            [
              [0, 0],
              [10, 0],
            ],
            [
              [1, 1],
              [2, 2],
            ],
          ],
        },
      ],
      [
        'surface',
        7,
        {
          label_paths: [
            [
              [0, 0],
              [12, 3],
            ],
          ],
        },
      ],
      ['surface', 7, { label_paths: [] }],
    ])
  })
})

describe('tools of the line', () => {
  it('puts a PI into the nearest leg, or beyond the end it lies behind', () => {
    const pis = [
      [0, 0],
      [100, 0],
      [100, 100],
    ].map(([easting, northing]) => ({ easting: easting!, northing: northing! }))
    expect(
      [
        [50, 9],
        [101, 40],
        [-5, 1],
        [99, 130],
      ].map(([e, n]) => placeAmong(pis, e!, n!)),
    ).toEqual([1, 2, 0, 3])
    expect(placeAmong(pis.slice(0, 1), 5, 5)).toBe(1)
  })
  it('draws a road by clicks, its last click doubled, and makes the new road the active one', async () => {
    const { bench } = setUp()
    const posted = vi.spyOn(api, 'post').mockResolvedValue({ label: '', told: [], road_id: 9 } as never)
    const tool = drawRoad({ bench, catchAt: (at: unknown) => at } as unknown as PlanContext)
    for (const [e, n] of [
      [0, 0],
      [50.00004, 10],
      [90, 10],
      [90.1, 10],
    ])
      tool.click!({ e: e!, n: n! }, press)
    await tool.finish!()
    expect(posted.mock.calls[0]).toEqual([
      '/projects/4/roads',
      {
        name: 'Road 3',
        pis: [
          { easting: 0, northing: 0 },
          { easting: 50, northing: 10 },
          { easting: 90, northing: 10 },
        ],
      },
    ])
    expect(useUi().roadId).toBe(9)
    tool.click!({ e: 1, n: 1 }, press)
    await tool.finish!()
    expect(posted).toHaveBeenCalledTimes(1) // one point is no line
  })
  it('deletes what is chosen only in the stage where it is edited', async () => {
    const { bench } = setUp()
    useUi().selection = { kind: 'pi', index: 1, id: 12 }
    await removeChosen(bench)
    expect(changed).toEqual([])
    useUi().stage = 'line'
    useUi().selection = { kind: 'pi', index: 1, id: 12 }
    await removeChosen(bench)
    expect(changed).toEqual([['remove', 'pi', 12]])
  })
})
