/** What people type into number fields: arithmetic, decimal comma, chainages, grades. Returns null when it is none. */

type Kind = 'number' | 'station' | 'grade' | 'one_in'

export function parseNumber(text: string, kind: Kind = 'number'): number | null {
  const t = text.trim().replaceAll('\u2009', '').replaceAll('−', '-').replace(/(\d),(\d)/g, '$1.$2')
  if (!t) return null
  if (kind === 'station') {
    const m = /^(-?)(\d+)\+(\d{2,3})(\.\d+)?$/.exec(t)
    if (m) {
      const value = Number(m[2]) * 10 ** m[3]!.length + Number(m[3]) + Number(m[4] ?? 0)
      return m[1] ? -value : value
    }
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
  return arithmetic(t.replace(/\s*(m|m²|m³)$/, ''))
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
    if (s[at] === '-') return at++, -factor()
    if (s[at] === '+') return at++, factor()
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
