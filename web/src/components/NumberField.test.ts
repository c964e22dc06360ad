import { flushPromises, mount, type VueWrapper } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import NumberField from './NumberField.vue'

function field(props: Record<string, unknown>) {
  const wrapper: VueWrapper = mount(NumberField, { props: { label: 'Radius', modelValue: 600, ...props } as never })
  const input = wrapper.find('input')
  async function type(text: string, key = 'Enter') {
    await input.trigger('focus')
    await input.setValue(text)
    await input.trigger(`keydown.${key.toLowerCase()}`)
  }
  return { wrapper, input, type, told: () => wrapper.emitted('change')?.map((e) => e[0]) ?? [] }
}

describe('a number field', () => {
  it('shows decimals by kind and names its label', () => {
    expect(field({ decimals: 2 }).input.element.value).toBe('600.00')
    expect(field({ kind: 'grade', modelValue: 0.025, decimals: 2 }).input.element.value).toBe('2.50')
    expect(field({ kind: 'station', modelValue: 1240.5 }).input.element.value).toBe('1+240.500')
    expect(field({ modelValue: null, empty: 'hull' }).input.element.value).toBe('hull')
    expect(field({}).wrapper.find('label').text()).toBe('Radius')
  })
  it('takes arithmetic and tells the value once', async () => {
    const f = field({})
    await f.type('2*(300+5)')
    await f.input.trigger('blur')
    expect(f.told()).toEqual([610])
  })
  it('tells nothing when nothing was changed', async () => {
    const f = field({ decimals: 2 })
    await f.type('600.00')
    expect(f.told()).toEqual([])
  })
  it('keeps what cannot be read and says what would be right', async () => {
    const f = field({})
    await f.type('wide')
    expect(f.told()).toEqual([])
    expect(f.input.element.value).toBe('wide')
    expect(f.wrapper.find('[role=alert]').text()).toBe("'wide' is not a number. Type a value such as 12.5.")
  })
  it('brings the value back on Esc', async () => {
    const f = field({ decimals: 1 })
    await f.type('77', 'Esc')
    expect(f.told()).toEqual([])
    expect(f.input.element.value).toBe('600.0')
  })
  it('empties a value that may be empty, and no other', async () => {
    const may = field({ empty: 'hull' })
    await may.type('')
    expect(may.told()).toEqual([null])
    const must = field({})
    await must.type('')
    expect(must.told()).toEqual([])
    expect(must.wrapper.find('[role=alert]').exists()).toBe(true)
  })
  it('shows what the model holds when nothing came of what was typed', async () => {
    const f = field({ decimals: 0 })
    await f.type('9000')
    await flushPromises()
    expect(f.told()).toEqual([9000])
    expect(f.input.element.value).toBe('600')
  })
  it('keeps a refused value, marked and with its reason, until it is let go', async () => {
    const f = field({ decimals: 0, onChange: () => void f.wrapper.setProps({ wrong: 'The curve does not fit.' }) })
    await f.type('9000')
    await flushPromises()
    expect([f.input.element.value, f.input.classes('bad'), f.input.attributes('aria-invalid')]).toEqual(['9000', true, 'true'])
    await f.wrapper.setProps({ wrong: '' })
    await f.input.trigger('focus')
    await f.input.trigger('keydown.esc')
    expect([f.input.element.value, f.input.classes('bad')]).toEqual(['600', false])
  })
  it('tells limits beside the field, and takes nothing beyond them', async () => {
    const f = field({ least: 50, greatest: 20000, unit: 'm' })
    await f.type('7')
    expect(f.told()).toEqual([])
    expect(f.wrapper.find('[role=alert]').text()).toBe('7 is outside what can be taken here: from 50 to 20000 m.')
  })
  it('asks which of two readings is meant, and takes the one that is clicked', async () => {
    const f = field({ modelValue: 412500 })
    await f.type('412,560')
    expect(f.told()).toEqual([])
    const links = f.wrapper.findAll('[data-test=reading]')
    expect(links.map((l) => l.text())).toEqual(['412.560', '412560'])
    await links[1]!.trigger('click')
    expect(f.told()).toEqual([412560])
  })
  it('asks before a jump beyond the project', async () => {
    const f = field({ modelValue: 412500, jump: 3000 })
    await f.type('41250')
    expect(f.told()).toEqual([])
    expect(f.wrapper.find('[data-test=asked]').text()).toContain('371.3 km from where it is')
    await f.wrapper.find('[data-test=reading]').trigger('click')
    expect(f.told()).toEqual([41250])
  })
  it('follows a new value, also after it was typed into', async () => {
    const f = field({ decimals: 0 })
    await f.type('580')
    await f.wrapper.setProps({ modelValue: 640 })
    expect(f.input.element.value).toBe('640')
  })
})
