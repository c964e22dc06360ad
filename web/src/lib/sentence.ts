/** Rules and cases of a part read as sentences with slots. */
import type { RuleSlot, RuleTold } from '@/api/types'
import { formatNumber } from './format'
import { units } from './units'

export type Token = { text: string } | { slot: RuleSlot }
type Slots = Record<string, string | number | undefined>

/** The sentence in tokens; what stands in square brackets is left out while its first slot is empty. */
export function sentenceOf(rule: RuleTold, held: Slots): Token[] {
  const by = new Map(rule.slots.map((s) => [s.name, s]))
  const read = (text: string): Token[] =>
    text
      .split(/(\{\w+\})/)
      .filter(Boolean)
      .map((piece) => (piece.startsWith('{') ? { slot: by.get(piece.slice(1, -1))! } : { text: piece }))
  return rule.sentence.split(/(\[[^\]]*\])/).flatMap((piece) => {
    if (!piece.startsWith('[')) return read(piece)
    const inner = piece.slice(1, -1)
    const first = /\{(\w+)\}/.exec(inner)![1]!
    return (held[first] ?? '') === '' ? [] : read(inner)
  })
}

/** What a slot shows: lengths with the unit, slopes in per cent, words as they are read. */
export function slotSaid(slot: RuleSlot, value: string | number | undefined): string {
  const held = value === undefined || value === '' ? (slot.usual ?? '') : value
  if (slot.takes === 'word') return slot.words[held] ?? { outward: slot.words.fall, inward: slot.words.rise }[held] ?? `${held}`
  if (slot.takes === 'target') return held === 'ground' ? 'the ground' : `${held}`
  if (slot.takes === 'node') return held === 'start' ? 'the start' : `${held}`
  if (typeof held === 'string' || slot.takes === 'run' || slot.takes === 'line') return `${held}`
  if (slot.takes === 'length') return `${short(held, 3)} ${units.value.length}`
  if (slot.takes === 'slope') return `${short(held * 100, 2)} %`
  if (slot.takes === 'angle') return `${short(held, 1)}°`
  return short(held, 3)
}
const short = (v: number, decimals: number) => formatNumber(v, decimals).replace(/\.?0+$/, '') || '0'

/** What was typed into a formula slot: a number where it is one, else the text; in a slope slot 3 could mean 3 % or 1 in 3. */
export function typedSlot(takes: RuleSlot['takes'], text: string): { value: string | number } | { asks: string[] } {
  const plain = text
    .trim()
    .replace(/^(\d+),(\d+)$/, '$1.$2')
    .replace(/^(\d+),(\d+)(?= ?[%°])/, '$1.$2')
  const number = plain !== '' && Number.isFinite(Number(plain)) ? Number(plain) : null
  if (takes === 'slope' && number !== null && Math.abs(number) >= 1) return { asks: [`${plain} %`, `1 in ${plain}`, `${plain}°`] }
  if (takes === 'length') {
    const length = /^([-+.\d]+)\s*(m|ft)$/.exec(plain)
    if (length && length[2] === units.value.length) return { value: Number(length[1]) }
  }
  if (takes === 'angle') {
    const angle = /^([-+.\d]+)\s*(°|deg)$/.exec(plain)
    if (angle) return { value: Number(angle[1]) }
  }
  return { value: number ?? plain }
}
/** Whether a slot holds a number of its own, which could become a parameter. */
export const isPlainNumber = (value: string | number | undefined) =>
  typeof value === 'number' || (typeof value === 'string' && /^(1\s*(in|:|\/)\s*)?[-+]?[\d.]+\s*(%|°|deg|m|cm|mm|ft)?$/.test(value.trim()))
