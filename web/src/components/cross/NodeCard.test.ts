/** What a value typed in a section does: asked once where it shall hold, then sent to the template, to the range, or to its own row. */
import { flushPromises, mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it, vi } from 'vitest'
import { ref } from 'vue'
import type { NodeReason } from '@/api/types'
import { useUi } from '@/stores/ui'

const sent: unknown[] = []
let refusal = ''
const width: NodeReason['values'][number] = {
  name: 'width', label: 'Verge width', kind: 'length', value: 2.5, origin: 'usual', choices: [], row: null, row_range: null,
} // prettier-ignore
let told: NodeReason
const asked: string[] = []
vi.mock('@/api/client', () => ({
  api: {
    get: async (path: string) => (asked.push(path), told),
    post: async (path: string, body: object) => sent.push([path, body]),
  },
}))
const placed = [{ id: 'verge', part: 'verge' }]
const bench = {
  section: ref({ station: 500 }),
  saved: ref({ key: 'a' }),
  trial: ref(null),
  canEdit: ref(true),
  acting: ref(0),
  design: ref({ along: [], line: null }),
  limits: ref([0, 540]),
  project: ref({ templates: [{ id: 4, name: 'Rural', left: placed, right: placed }] }),
  failure: ref<{ message: string } | null>(null),
  station: (s: number) => `${s}`,
  change: vi.fn(async (...given: unknown[]) => {
    sent.push(given.slice(0, 3))
    bench.failure.value = refusal ? { message: refusal } : null
    return refusal ? null : {}
  }),
  act: vi.fn(async (run: () => Promise<unknown>) => (await run(), {})),
}
vi.mock('@/composables/workbench', () => ({ useWorkbench: () => bench, useWorkbenchIfAny: () => bench }))
const { default: NodeCard } = await import('./NodeCard.vue')

beforeEach(() => {
  setActivePinia(createPinia())
  Object.assign(useUi(), { roadId: 7, mark: 500 })
  sent.length = asked.length = 0
  refusal = ''
  told = {
    station: 500, side: 'right', node: 'verge.edge', label: 'verge edge', part: 'verge', part_label: 'Verge', case: '', led: false,
    rule: 'from the pavement edge, 2.500 m (verge width) outward', offset: 7.15, level: 54.3, template_id: 4, values: [width],
  } // prettier-ignore
})
async function card() {
  const box = mount(NodeCard, { props: { side: 'right', node: 'verge.edge' } })
  await flushPromises()
  const click = async (test: string) => (await box.find(`[data-test=${test}]`).trigger('click'), flushPromises())
  async function type(text: string) {
    const input = box.find('[data-test=node-value-width]')
    await input.trigger('focus')
    await input.setValue(text)
    await input.trigger('keydown', { key: 'Enter' })
    await flushPromises()
  }
  return { box, click, type }
}

it('reads the rule as a sentence and asks again for another section', async () => {
  const { box } = await card()
  expect(asked).toEqual(['/roads/7/section/reason?station=500&side=right&node=verge.edge'])
  expect(box.find('[data-test=node-rule]').text()).toBe('From the pavement edge, 2.500 m (verge width) outward.')
  expect(box.find('[data-test=node-place]').text()).toContain('+7.150 m from the line, level 54.300 m')
  bench.section.value = { station: 510 }
  await flushPromises()
  expect(asked).toHaveLength(2)
  bench.section.value = { station: 500 }
})

it('changes the template on both sides where both hold the same, on one where they do not', async () => {
  const { click, type } = await card()
  await type('3')
  expect(sent).toEqual([]) // nothing before it is said where
  await click('node-everywhere')
  expect(sent).toEqual([['template', 4, { side: 'both', part: 'verge', values: { width: 3 } }]])
  bench.project.value = { templates: [{ id: 4, name: 'Rural', left: [], right: placed }] }
  await type('4')
  await click('node-everywhere')
  expect(sent[1]).toEqual(['template', 4, { side: 'right', part: 'verge', values: { width: 4 } }])
  bench.project.value = { templates: [{ id: 4, name: 'Rural', left: placed, right: placed }] }
})

it('makes a row over the marked range, or a usual length that ends with the road', async () => {
  const { box, click, type } = await card()
  await type('3')
  expect(box.find('[data-test=node-range]').text()).toBe('only 500 – 540')
  await click('node-range')
  useUi().range = [100, 160]
  await type('3.5')
  await click('node-range')
  const row = { kind: 'adjustment', side: 'right', part: 'verge', parameter: 'width', form: 'constant' }
  expect(sent).toEqual([
    ['/roads/7/variations', { ...row, value: 3, station_from: 500, station_to: 540 }],
    ['/roads/7/variations', { ...row, value: 3.5, station_from: 100, station_to: 160 }],
  ])
})

it('changes the row that adjusts it, offers no template to a part that a change put there, and keeps what was refused', async () => {
  told = { ...told, template_id: null, values: [{ ...width, origin: 'adjusted', row: 31, row_range: [480, 520] }] }
  const { box, click, type } = await card()
  refusal = 'Verge width is 0 to 20 m.'
  await type('33')
  expect(box.find('[data-test=node-everywhere]').exists()).toBe(false)
  expect(box.find('[data-test=node-range]').text()).toBe('where it is adjusted')
  await click('node-range')
  expect(sent).toEqual([['variation', 31, { value: 33 }]])
  expect(box.find('[role=alert]').text()).toBe(refusal)
  expect((box.find('[data-test=node-value-width]').element as HTMLInputElement).value).toBe('33.00')
})
