/** What people type into number fields: arithmetic, decimal comma, chainages, grades. Returns null when it is none. */

import { formatStation } from './format'

type Kind = 'number' | 'station' | 'grade' | 'one_in'

/** One way to read what was typed, and how it would be written without doubt. */
export interface Reading {
  value: number
  words: string
}

/**
 * Every way to read a text. None: it is no number. Two: the field asks. A comma before exactly three digits, with no other mark, may part
 * decimals or thousands; a chainage whose last group is too short may lack zeros before or behind it.
 */
export function readingsOf(text: string, kind: Kind = 'number', group = 1000): Reading[] {
  const t = text.trim().replaceAll('\u2009', '').replaceAll('−', '-')
  const parted = /^([+-]?\d{1,3}),(\d{3})$/.exec(t)
  if (parted && kind !== 'grade' && kind !== 'one_in') {
    return [`${parted[1]}.${parted[2]}`, `${parted[1]}${parted[2]}`].map((words) => ({ value: Number(words), words }))
  }
  const m = kind === 'station' ? /^(-?)(\d+)\+(\d+)([.,]\d+)?$/.exec(t) : null
  if (m) {
    const digits = Math.round(Math.log10(group))
    const rest = m[3]!
    const decimals = (m[4] ?? '').replace(',', '.')
    if (rest.length > digits) return []
    const last = (head: number, f: string) => ({ value: (m[1] ? -1 : 1) * (head + Number(f) + Number(decimals || 0)), f })
    const whole = Number(m[2]) * 10 ** digits
    const written = (r: { value: number; f: string }) => ({ value: r.value, words: `${m[1]}${m[2]}+${r.f}${decimals}` })
    if (rest.length === digits) return [written(last(whole, rest))]
    if (!decimals) return [rest.padStart(digits, '0'), rest.padEnd(digits, '0')].map((f) => written(last(whole, f)))
    const short = last(Number(m[2]) * 10 ** rest.length, rest) // groups as short as typed
    return [
      written(last(whole, rest.padStart(digits, '0'))),
      { value: short.value, words: formatStation(short.value, { group }, decimals.length - 1) },
    ]
  }
  const value = parseNumber(t, kind)
  return value === null ? [] : [{ value, words: t }]
}

/** What was typed as a number, where there is one way to read it; null otherwise. */
export function parseNumber(text: string, kind: Kind = 'number', group = 1000): number | null {
  const t = text
    .trim()
    .replaceAll('\u2009', '')
    .replaceAll('−', '-')
    .replace(/(\d),(\d)/g, '$1.$2')
  if (!t) return null
  if (kind === 'station' && t.includes('+') && /^-?\d+\+\d+(\.\d+)?$/.test(t)) {
    const found = readingsOf(text, kind, group)
    return found.length === 1 ? found[0]!.value : null
  }
  if (kind === 'grade') {
    const ratio = /^([+-]?)\s*(\d*\.?\d+)\s*(?:in|:)\s*(\d*\.?\d+)$/i.exec(t)
    if (ratio && Number(ratio[3]) !== 0) return ((ratio[1] === '-' ? -1 : 1) * Number(ratio[2])) / Number(ratio[3])
    const value = arithmetic(t.replace(/%\s*$/, ''))
    return value === null ? null : value / 100
  }
  if (kind === 'one_in') {
    const ratio = /^1\s*(?:in|:)\s*(.+)$/i.exec(t)
    return arithmetic(ratio ? ratio[1]! : t)
  }
  return arithmetic(t.replace(/\s*(m|m²|m³|ft|ft²|yd³|km\/h|mph)$/, ''))
}

/** + - * / and brackets; nothing else. */
export function arithmetic(text: string): number | null {
  let at = 0
  const s = text.replaceAll(/\s+/g, '')
  if (!s || !/^[\d.+\-*/()eE]+$/.test(s)) return null

  function sum(): number {
    let value = product()
    while (s[at] === '+' || s[at] === '-') value = s[at++] === '+' ? value + product() : value - product()
    return value
  }
  function product(): number {
    let value = factor()
    while (s[at] === '*' || s[at] === '/') value = s[at++] === '*' ? value * factor() : value / factor()
    return value
  }
  function factor(): number {
    if (s[at] === '-') return (at++, -factor())
    if (s[at] === '+') return (at++, factor())
    if (s[at] === '(') {
      at++
      const value = sum()
      return s[at++] === ')' ? value : NaN
    }
    const m = /^(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?/.exec(s.slice(at))
    if (!m) return NaN
    at += m[0].length
    return Number(m[0])
  }
  const value = sum()
  return at === s.length && Number.isFinite(value) ? value : null
}
