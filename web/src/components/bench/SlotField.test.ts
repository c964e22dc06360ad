/** A slot of a sentence: opened, typed, doubted, chosen, left, by mouse and keyboard. */
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import { nextTick } from 'vue'
import type { PartData, RuleSlot } from '@/api/types'
import SlotField from './SlotField.vue'

const part = {
  nodes: [{ name: 'edge' }, { name: 'toe' }, { name: 'toe' }], targets: [{ name: 'rock', label: 'the rock', kind: 'surface' }],
  runs: [], parameters: [{ name: 'way', label: 'Way', kind: 'choice', choices: ['rise', 'fall'] }],
} as unknown as PartData // prettier-ignore
const slot = (takes: RuleSlot['takes'], words: Record<string, string> = {}) => ({ name: 'slope', takes, words, usual: null }) as RuleSlot

async function opened(takes: RuleSlot['takes'], value: string | number | undefined, words?: Record<string, string>) {
  const box = mount(SlotField, { props: { slotTold: slot(takes, words), value, part, test: 's' }, attachTo: document.body })
  await box.find('[data-test=s]').trigger('click')
  await nextTick()
  const sent = () => (box.emitted('set') ?? []).map(([v]) => v)
  async function type(text: string) {
    const field = box.find('[data-test=s-input]')
    await field.setValue(text)
    await field.trigger('keydown', { key: 'Enter' })
  }
  return { box, sent, type }
}

it('asks what a bare slope means and takes the answer', async () => {
  const { box, sent, type } = await opened('slope', 0.04)
  expect((box.find('[data-test=s-input]').element as HTMLInputElement).value).toBe('4 %')
  await type('3')
  expect(sent()).toEqual([])
  expect(box.findAll('.asks button').map((b) => b.text())).toEqual(['3 %', '1 in 3', '3°'])
  await box.find("[data-test='slot-ask-1 in 3']").trigger('click')
  expect(sent()).toEqual(['1 in 3'])
  expect(box.find('[data-test=s-input]').exists()).toBe(false)
})

it('sends nothing on Esc, nothing for what is there already, and what was typed when it is left', async () => {
  const esc = await opened('length', 2.5)
  await esc.box.find('[data-test=s-input]').setValue('9')
  await esc.box.find('.edit').trigger('keydown', { key: 'Escape' })
  expect(esc.sent()).toEqual([])
  const same = await opened('length', 2.5)
  await same.type('2.5 m')
  expect(same.sent()).toEqual([])
  const left = await opened('length', 2.5)
  await left.box.find('[data-test=s-input]').setValue('3.4')
  await left.box.find('[data-test=s-input]').trigger('focusout')
  expect(left.sent()).toEqual([3.4])
})

it('offers each node once, targets with the ground first, words with the choices that fit', async () => {
  const values = (box: ReturnType<typeof mount>) => box.findAll('option').map((o) => [o.attributes('value'), o.text()])
  expect(values((await opened('node', 'edge')).box)).toEqual([['start', 'the start'], ['edge', 'edge'], ['toe', 'toe']]) // prettier-ignore
  expect(values((await opened('target', 'ground')).box)).toEqual([['ground', 'the ground'], ['rock', 'the rock']]) // prettier-ignore
  const word = await opened('word', 'fall', { rise: 'rising', fall: 'falling' })
  expect(values(word.box)).toEqual([['rise', 'rising'], ['fall', 'falling'], ['way', 'as way says']]) // prettier-ignore
  await word.box.find('select').setValue('way')
  expect(word.sent()).toEqual(['way'])
})

it('becomes a parameter by name from a number of its own, not from a formula', async () => {
  const { box } = await opened('length', 2.5)
  await box.find('[data-test=s-promote]').trigger('click')
  await nextTick()
  await box.find('[data-test=s-name]').setValue(' width ')
  await box.find('[data-test=s-name]').trigger('keydown', { key: 'Enter' })
  expect(box.emitted('promote')).toEqual([['width']])
  expect((await opened('length', 'width + 1')).box.find('[data-test=s-promote]').exists()).toBe(false)
})
