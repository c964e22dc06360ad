/** Numbers for people: one place, decimals by kind. */

export interface ChainageStyle {
  group: number
  word: string
}

/** 1+240.000 (group 1000) or 12+40.00 (group 100). Rounding carries. */
export function formatStation(value: number, style: Pick<ChainageStyle, 'group'> = { group: 1000 }, decimals = 2): string {
  const digits = Math.round(Math.log10(style.group))
  const scale = 10 ** decimals
  const rounded = Math.round(Math.abs(value) * scale) / scale
  const head = Math.floor(rounded / style.group + 1e-12)
  const rest = (rounded - head * style.group).toFixed(decimals)
  const width = digits + (decimals ? decimals + 1 : 0)
  return `${value < 0 && rounded > 0 ? '−' : ''}${head}+${rest.padStart(width, '0')}`
}

/** Fixed decimals with a proper minus and thin spaces between thousands. */
export function formatNumber(value: number | null | undefined, decimals: number, sign = false): string {
  if (value === null || value === undefined || !Number.isFinite(value)) return '–'
  const text = Math.abs(value).toFixed(decimals)
  const negative = value < 0 && Number(text) !== 0
  const [whole, part] = text.split('.')
  const grouped = whole!.length > 4 ? whole!.replace(/\B(?=(\d{3})+$)/g, '\u2009') : whole!
  return (negative ? '−' : sign && Number(text) !== 0 ? '+' : '') + (part === undefined ? grouped : `${grouped}.${part}`)
}

export const formatLevel = (v: number | null | undefined) => formatNumber(v, 3)
export const formatGrade = (v: number | null | undefined) => (v === null || v === undefined ? '–' : `${formatNumber(v * 100, 2, true)} %`)
export const formatVolume = (v: number | null | undefined) => formatNumber(v, 0)
export const formatArea = (v: number | null | undefined) => formatNumber(v, 2)

/** A cross slope as engineers say it: percent when flat, 1 : n when steep. */
export function formatSlope(v: number | null | undefined): string {
  if (v === null || v === undefined) return '–'
  if (Math.abs(v) < 0.1) return `${formatNumber(v * 100, 1, true)} %`
  return `1 : ${formatNumber(1 / Math.abs(v), 2).replace(/\.?0+$/, '')}`
}
