import { afterEach, describe, expect, it } from 'vitest'
import type { RuleTold } from '@/api/types'
import { isPlainNumber, sentenceOf, slotSaid, typedSlot } from './sentence'
import { units, UNITS } from './units'

const slot = (name: string, takes: string, words: Record<string, string> = {}, usual: string | null = null) =>
  ({ name, takes, words, usual }) as RuleTold['slots'][number]
const rule = {
  kind: 'slope_until_surface',
  about: '',
  sentence: 'from {from} until it meets {target}[ from {arriving}] at the {crossing} crossing[ within {within} of {since}]',
  slots: [
    slot('from', 'node'),
    slot('target', 'target', {}, 'ground'),
    slot('arriving', 'word', { above: 'above' }, ''),
    slot('crossing', 'word', { first: 'first', last: 'last' }),
    slot('within', 'length', {}, ''),
    slot('since', 'word', { hinge: 'the hinge' }, 'hinge'),
  ],
} as RuleTold
const read = (held: Record<string, string | number>) =>
  sentenceOf(rule, held)
    .map((t) => ('text' in t ? t.text : slotSaid(t.slot, held[t.slot.name])))
    .join('')

describe('the sentence of a rule', () => {
  it('leaves out what is empty, and says what is usual', () => {
    expect(read({ from: 'start', crossing: 'last' })).toBe('from the start until it meets the ground at the last crossing')
    expect(read({ from: 'n1', crossing: 'first', within: 30 })).toBe(
      'from n1 until it meets the ground at the first crossing within 30 m of the hinge',
    )
    expect(read({ from: 'n1', crossing: 'first', arriving: 'above', target: 'rock' })).toContain('meets rock from above at')
  })
  it('shows formulas as they were written and words by the choice they hang on', () => {
    expect(slotSaid(slot('slope', 'slope'), '1 in n')).toBe('1 in n')
    expect(slotSaid(slot('slope', 'slope'), 0.025)).toBe('2.5 %')
    expect(slotSaid(slot('sense', 'word', { rise: 'rising', fall: 'falling' }), 'outward')).toBe('falling')
    expect(slotSaid(slot('sense', 'word', { rise: 'rising', fall: 'falling' }), 'falls')).toBe('falls')
    expect(slotSaid(slot('angle_deg', 'angle'), 60)).toBe('60°')
    expect(slotSaid(slot('across', 'length'), 10)).toBe('10 m')
  })
})

describe('what is typed into a slot', () => {
  afterEach(() => void (units.value = UNITS.m))
  it('is a number where it is one, with a point or a comma', () => {
    expect(typedSlot('length', ' 3.40 ')).toEqual({ value: 3.4 })
    expect(typedSlot('length', '3,4')).toEqual({ value: 3.4 })
    expect(typedSlot('length', '3.4 m')).toEqual({ value: 3.4 })
    expect(typedSlot('slope', '2,5 %')).toEqual({ value: '2.5 %' })
    expect(typedSlot('angle', '60°')).toEqual({ value: 60 })
    expect(typedSlot('length', 'least(2, w)')).toEqual({ value: 'least(2, w)' })
  })
  it('asks where a slope could mean three things', () => {
    expect(typedSlot('slope', '3')).toEqual({ asks: ['3 %', '1 in 3', '3°'] })
    expect(typedSlot('slope', '0.03')).toEqual({ value: 0.03 })
    expect(typedSlot('slope', '1 in 3')).toEqual({ value: '1 in 3' })
  })
  it('keeps a length with the unit that is not spoken as it was written', () => {
    units.value = UNITS.ft
    expect(units.value.length).toBe('ft')
    expect(typedSlot('length', '12 ft')).toEqual({ value: 12 })
    expect(typedSlot('length', '3.4 m')).toEqual({ value: '3.4 m' })
  })
  it('can become a parameter only where it is a plain number', () => {
    for (const yes of [3.4, '3.4', '2.5 %', '1 in 4', '1:4', '30°', '0.3 m']) expect(isPlainNumber(yes), `${yes}`).toBe(true)
    for (const no of ['width', 'w + 1', '', undefined, 'least(1, 2)']) expect(isPlainNumber(no), `${no}`).toBe(false)
  })
})
