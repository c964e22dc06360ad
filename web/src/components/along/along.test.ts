/** The line that leads a node, and the bodies of new rows. */
import { flushPromises, mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { AlongRow } from '@/api/types'
import { useUi } from '@/stores/ui'

const sent: [string, Record<string, unknown>][] = []
vi.mock('@/api/client', () => ({ api: { post: async (path: string, body: Record<string, unknown>) => (sent.push([path, body]), {}) } }))
const part = {
  id: 'carriageway', label: 'Carriageway', parameters: [{ name: 'lane_width', label: 'Lane width', kind: 'length', value: 3.65 }],
  nodes: [{ name: 'carriageway.lane_edge', label: 'lane edge' }, { name: 'carriageway.pavement_edge', label: 'pavement edge' }],
} // prettier-ignore
const layers = [{ code: 'LAND|A', type: 'line', vertices: 12 }, { code: 'GRD', type: 'point', vertices: 80 }] // prettier-ignore
const survey = { id: 9, name: 'mapping.dxf', layers }
const roads = [{ id: 1, name: 'Link' }, { id: 2, name: 'Tarn Lane' }] // prettier-ignore
const roles = [{ name: 'centre line' }, { name: 'pavement edge' }, { name: 'formation edge', below: true }]
const bench = {
  canEdit: ref(true),
  acting: ref(0),
  equations: ref([]),
  design: ref({ along: [], line: null }),
  saved: ref<{ road_id: number; built: object } | null>({ road_id: 1, built: { left: [part], right: [part] } }),
  limits: ref([0, 2400]),
  road: ref({ id: 1, template_id: 4 }),
  style: ref({ group: 1000 }),
  project: ref({ templates: [], parts: [], roles, roads, surfaces: [{ id: 3, name: 'Ground', sources: [survey] }] }),
  partBench: { library: ref(null), needLibrary: async () => null },
  failure: ref<{ message: string } | null>(null),
  act: async (run: () => Promise<unknown>) => await run(),
}
vi.mock('@/composables/workbench', () => ({ useWorkbench: () => bench, useWorkbenchIfAny: () => bench }))
const { default: LeadSource } = await import('./LeadSource.vue')
const { default: AlongNew } = await import('./AlongNew.vue')
const { default: AlongList } = await import('./AlongList.vue')

beforeEach(() => {
  setActivePinia(createPinia())
  Object.assign(useUi(), { roadId: 1, mark: 300 })
  sent.length = 0
})

describe('the line that leads', () => {
  const centre = { road: 2, edge: 'centre line', edge_side: null, survey: null, layer: null, surface: null }
  const source = (given: object) => mount(LeadSource, { props: { source: { ...centre, ...given } } })

  it('is one of the other roads or of a layer with lines, not the road itself, points, or what lies below', () => {
    const box = source({})
    const texts = (test: string) => box.findAll(`[data-test=${test}] option`).map((o) => o.text())
    expect(texts('lead-line')).toEqual(['Tarn Lane', 'mapping.dxf: LAND|A (12)', 'Ground (surface)'])
    expect(texts('lead-edge')).toEqual(['centre line', 'left pavement edge', 'right pavement edge'])
  })
  it('keeps a bar within a layer’s name, and forgets the edge with the road', async () => {
    const box = source({ edge: 'pavement edge', edge_side: 'left' })
    expect((box.find('[data-test=lead-edge]').element as HTMLSelectElement).value).toBe('left pavement edge')
    await box.find('[data-test=lead-line]').setValue('layer 9|LAND|A')
    expect(box.emitted('change')![0]).toEqual([{ road: null, edge: null, edge_side: null, survey: 9, layer: 'LAND|A', surface: null }])
    await box.find('[data-test=lead-edge]').setValue('centre line')
    expect(box.emitted('change')![1]).toEqual([centre])
    const layer = source({ road: null, edge: null, survey: 9, layer: 'LAND|A' })
    expect((layer.find('[data-test=lead-line]').element as HTMLSelectElement).value).toBe('layer 9|LAND|A')
    expect(layer.find('[data-test=lead-edge]').exists()).toBe(false)
  })
})

describe('a new row', () => {
  async function added(kind: AlongRow['kind'], choose: Record<string, string> = {}) {
    const box = mount(AlongNew, { props: { kind } })
    for (const [test, value] of Object.entries(choose)) await box.find(`[data-test=${test}]`).setValue(value)
    await box.find('form').trigger('submit')
    await flushPromises()
    return { box, path: sent[0]?.[0], body: sent[0]?.[1] }
  }

  it('of a led node names node, line and what is taken; one length for both ends', async () => {
    const { path, body } = await added('led', {
      'new-node': 'carriageway.pavement_edge',
      'new-takes': 'both',
      'lead-edge': 'right pavement edge',
    })
    expect(path).toBe('/roads/1/variations')
    expect(body).toEqual({
      kind: 'led', station_from: 300, station_to: 400, side: 'right', node: 'carriageway.pavement_edge', takes: 'both', reach: 5, ease: 0,
      release: 0, road: 2, edge: 'pavement edge', edge_side: 'right',
    }) // prettier-ignore
  })
  it('of a led node begins with a received line where there is no other road', async () => {
    bench.project.value = { ...bench.project.value, roads: roads.slice(0, 1) }
    const { body } = await added('led')
    bench.project.value = { ...bench.project.value, roads }
    expect(body).toMatchObject({ survey: 9, layer: 'LAND|A' })
    expect(body).not.toHaveProperty('road')
  })
  it('of a meeting with the ground names the nearer end and a length that the road has room for', async () => {
    Object.assign(useUi(), { mark: 2200 })
    expect((await added('meet')).body).toEqual({ kind: 'meet', end: 'end', over: 40 })
    const limits = bench.limits.value
    bench.limits.value = [0, 60]
    sent.length = 0
    expect((await added('meet', { 'new-end': 'start' })).body).toEqual({ kind: 'meet', end: 'start', over: 30 })
    bench.limits.value = limits
  })
  it('waits for the road that its values are read off, and begins anew on another', async () => {
    const [limits, saved] = [bench.limits.value, bench.saved.value]
    bench.limits.value = [0, 0] // the page is there, the road is not yet
    bench.saved.value = null
    const list = mount(AlongList)
    await list.find('[data-test=along-add-meet]').trigger('click')
    expect(list.find('[data-test=along-new]').exists()).toBe(false)
    bench.limits.value = [0, 50]
    bench.saved.value = saved
    await flushPromises()
    await list.find('form').trigger('submit')
    expect(sent[0]![1]).toEqual({ kind: 'meet', end: 'end', over: 25 })
    await list.find('[data-test=along-add-meet]').trigger('click')
    bench.limits.value = limits
    bench.saved.value = { ...saved!, road_id: 2 }
    await flushPromises()
    await list.find('form').trigger('submit')
    expect(sent[1]![1]).toMatchObject({ over: 40 })
    bench.saved.value = saved
  })
  it('of a width can be wider in bends for a vehicle; of anything else it cannot', async () => {
    const { body } = await added('adjustment', { 'new-how': 'bends', 'new-vehicle': 'bus' })
    expect(body).toMatchObject({ form: 'bends', vehicle: 'bus', parameter: 'lane_width' })
    expect(body).not.toHaveProperty('value')
  })
  it('takes the marked range, says what is refused, and stays', async () => {
    useUi().range = [20, 90]
    const act = bench.act
    bench.act = async () => ((bench.failure.value = { message: 'They overlap.' }), null)
    const { box } = await added('adjustment')
    expect(box.find('[data-test=along-wrong]').text()).toBe('They overlap.')
    expect(box.emitted('done')).toBeUndefined()
    bench.act = act
    const again = await added('adjustment')
    expect(again.body).toMatchObject({ station_from: 20, station_to: 90, side: 'both', parameter: 'lane_width', value: 3.65 })
    expect(again.box.emitted('done')).toHaveLength(1)
  })
})
