import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope, ref } from 'vue'
import type { GroundEdit, GroundPick } from '@/api/types'
import { api } from '@/api/client'
import { useTold } from '@/stores/told'
import { useUi } from '@/stores/ui'
import type { Ground } from './useGround'
import { useGroundTools } from './useGroundTools'
import type { Workbench } from './workbench'

const surface = ref({ id: 7, revision: 3, key: 'k', sources: [{}], label_paths: [[[0, 0], [10, 0]]] as [number, number][][] })
const edits: GroundEdit[][] = []
const patched: unknown[] = []

function setUp(answers: Record<string, unknown> = {}) {
  vi.spyOn(api, 'get').mockImplementation(async (path: string) => {
    const found = Object.entries(answers).find(([part]) => path.includes(part))
    return (found ? found[1] : null) as never
  })
  vi.spyOn(api, 'patch').mockImplementation(async (_path: string, body: unknown) => (patched.push(body), {}) as never)
  const bench = { canEdit: ref(true), act: async (run: () => Promise<unknown>) => run() } as unknown as Workbench
  const ground = { surface, edit: async (given: GroundEdit[]) => (edits.push(given), { label: '', told: [] }) } as unknown as Ground
  return effectScope().run(() => useGroundTools(bench, ground, ref({ e: 0, n: 0, scale: 2, width: 400, height: 300 })))!
}
beforeEach(() => {
  setActivePinia(createPinia())
  vi.restoreAllMocks()
  edits.length = patched.length = 0
  useUi().stage = 'ground'
})

describe('tools on the ground', () => {
  it('chooses the nearest point within ten pixels, or nothing', async () => {
    const pick: GroundPick = { kind: 'point', survey: 4, point: 11, place: [1, 2, 3] }
    const tools = setUp({ nearest: pick })
    await tools.click(1.2, 2.1)
    expect(vi.mocked(api.get).mock.calls[0]![0]).toBe('/surfaces/7/nearest?e=1.2&n=2.1&within=5')
    expect(tools.pick.value).toEqual(pick)
    vi.mocked(api.get).mockResolvedValue(null as never)
    await tools.click(50, 50)
    expect(tools.pick.value).toBeNull()
  })
  it('adds a point at the level of the ground, and says why it cannot outside', async () => {
    useUi().tool = 'add-point'
    await setUp({ reading: { elevation: 61.23456 } }).click(5, 6)
    expect(edits).toEqual([[{ do: 'add_point', to: [5, 6, 61.235] }]])
    await setUp({ reading: { elevation: null } }).click(5, 6)
    expect(edits).toHaveLength(1)
    expect(useTold().list.at(-1)!.text).toContain('no ground here')
  })
  it('joins points by their exact places, and a double click ends the line once', async () => {
    useUi().tool = 'join'
    const tools = setUp({ nearest: { kind: 'point', survey: 4, point: 1, place: [1.001, 2.002, 55.5] } })
    await tools.click(1, 2)
    vi.mocked(api.get).mockImplementation(async (path: string) => (path.includes('reading') ? { elevation: 60 } : null) as never)
    await tools.click(30, 40)
    await tools.click(30, 40)
    await tools.finish()
    expect(edits).toEqual([[{ do: 'add_line', vertices: [[1.001, 2.002, 55.5], [30, 40, 60]] }]])
    expect(tools.draft.value).toEqual([])
  })
  it('refuses a breakline that leaves the ground, in words', async () => {
    useUi().tool = 'join'
    const tools = setUp({ reading: { elevation: null } })
    await tools.click(1, 2)
    await tools.click(9, 9)
    await tools.finish()
    expect(edits).toEqual([])
    expect(useTold().list.at(-1)!.text).toContain('needs a level at every vertex')
  })
  it('keeps the level of what it moves unless another is given', async () => {
    const tools = setUp()
    useUi().selection = { kind: 'ground', pick: { kind: 'vertex', survey: 2, line: 5, vertex: 1, place: [10, 20, 30] } }
    await tools.moveTo({ e: 11, n: 22 })
    await tools.moveTo({ level: 31.5 })
    expect(edits).toEqual([[{ do: 'move_vertex', survey: 2, line: 5, vertex: 1, to: [11, 22, 30] }], [{ do: 'move_vertex', survey: 2, line: 5, vertex: 1, to: [11, 22, 31.5] }]])
  })
  it('adds a label path to those that are there, and takes one away', async () => {
    useUi().tool = 'label-path'
    const tools = setUp()
    await tools.click(1, 1)
    await tools.click(2, 2)
    await tools.finish()
    await tools.dropPath(0)
    expect(patched).toEqual([{ revision: 3, label_paths: [[[0, 0], [10, 0]], [[1, 1], [2, 2]]] }, { revision: 3, label_paths: [] }])
  })
})
