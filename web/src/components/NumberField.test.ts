/** What a field does with what people type: units, chainages, doubts, limits, refusals, and what somebody else does meanwhile. */
import { mount } from '@vue/test-utils'
import { afterEach, describe, expect, it } from 'vitest'
import { nextTick } from 'vue'
import { units, UNITS } from '@/lib/units'
import NumberField from './NumberField.vue'

function field(props: Record<string, unknown>) {
  const box = mount(NumberField, { props: { label: 'L', modelValue: 12.5, ...props } as never })
  const input = box.find('input')
  async function type(text: string) {
    await input.trigger('focus')
    await input.setValue(text)
    await input.trigger('keydown', { key: 'Enter' })
    await nextTick()
  }
  const sent = () => (box.emitted('change') ?? []).map(([v]) => v)
  return { box, input, type, sent, shown: () => input.element.value, alert: () => box.find('[role=alert]').text() }
}
afterEach(() => (units.value = UNITS.m))

describe('a number field', () => {
  it('shows and takes the value in the unit of the project, and keeps it in SI', async () => {
    units.value = UNITS.ft
    const f = field({ modelValue: 304.8, unit: 'm', decimals: 2 })
    expect([f.shown(), f.box.find('.unit').text()]).toEqual(['1000.00', 'ft'])
    await f.type('750')
    await f.type('2 * 100 ft')
    expect(f.sent().map((v) => Number((v as number).toFixed(9)))).toEqual([228.6, 60.96])
    const speed = field({ modelValue: 104.60736, unit: 'km/h', decimals: 0 })
    expect([speed.shown(), speed.box.find('.unit').text()]).toEqual(['65', 'mph'])
    const other = field({ modelValue: 40, unit: 'mm', decimals: 0 })
    expect(other.shown()).toBe('40')
  })
  it('reads chainages in the unit of the project', async () => {
    units.value = UNITS.ft
    const f = field({ modelValue: 381, kind: 'station', group: 100 })
    expect(f.shown()).toBe('12+50.000')
    await f.type('13+00')
    expect(f.sent()[0]).toBeCloseTo(1300 * 0.3048, 9)
  })
  it('does arithmetic and grades, and says what is no number', async () => {
    const grade = field({ modelValue: 0.02, kind: 'grade', decimals: 2 })
    expect(grade.shown()).toBe('2.00')
    await grade.type('1 in 40')
    await grade.type('(2+1)/2 %')
    expect(grade.sent()).toEqual([0.025, 0.015])
    const f = field({})
    await f.type('twelve')
    expect(f.sent()).toEqual([])
    expect(f.alert()).toBe("'twelve' is not a number. Type a value such as 12.5.")
    expect(f.shown()).toBe('twelve') // what was typed is not lost
  })
  it('asks which is meant where there are two ways to read it', async () => {
    const f = field({})
    await f.type('1,250')
    expect(f.sent()).toEqual([])
    const ways = f.box.findAll('[data-test=reading]')
    expect(ways.map((w) => w.text())).toEqual(['1.250', '1250'])
    await ways[1]!.trigger('click')
    expect(f.sent()).toEqual([1250])
  })
  it('says limits in the unit of the project, and asks about a jump', async () => {
    units.value = UNITS.ft
    const f = field({ modelValue: 30.48, unit: 'm', decimals: 1, least: 15.24, greatest: 60.96 })
    await f.type('40')
    expect(f.alert()).toBe('40 is outside what can be taken here: from 50 to 200 ft.')
    await f.type('150')
    expect(f.sent()[0]).toBeCloseTo(45.72, 9)
    const far = field({ modelValue: 0, unit: 'm', jump: 1000 })
    await far.type('10560') // two miles
    expect(far.alert()).toContain('That is 2.0 mi from where it is')
    await far.box.find('[data-test=reading]').trigger('click')
    expect(far.sent()[0]).toBeCloseTo(3218.688, 6)
  })
  it('gives the value back on Escape, and an empty one only where there may be none', async () => {
    const f = field({ decimals: 1 })
    await f.input.trigger('focus')
    await f.input.setValue('99')
    await f.input.trigger('keydown', { key: 'Escape' })
    expect([f.shown(), f.sent()]).toEqual(['12.5', []])
    await f.type('')
    expect(f.sent()).toEqual([])
    const none = field({ modelValue: null, empty: 'as surface' })
    expect(none.shown()).toBe('as surface')
    const some = field({ modelValue: 3, empty: 'none' })
    await some.type('')
    expect(some.sent()).toEqual([null])
  })
  it('shows both values when somebody else changes it while it is typed over', async () => {
    const f = field({ decimals: 1, unit: 'm' })
    await f.input.trigger('focus')
    await f.input.setValue('20')
    await f.box.setProps({ modelValue: 14 })
    expect(f.box.find('[data-test=theirs]').text()).toContain('made it 14.0 m. Enter saves yours, Esc keeps theirs.')
    expect(f.shown()).toBe('20')
    await f.input.trigger('keydown', { key: 'Escape' })
    expect([f.shown(), f.sent()]).toEqual(['14.0', []])
  })
})
