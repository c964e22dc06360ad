/** Values of parts' parameters as they are said and typed; lengths in m, falls as ratios. */
import { formatNumber } from './format'
import { sayLength } from './units'

export type ParameterKind = string

/** The unit a number field of the kind has. */
export const unitOf = (kind: ParameterKind): string => ({ length: 'm', height: 'm', percent: '%', degrees: '°' })[kind] ?? ''
/** How a number field of the kind reads what is typed. */
export const fieldOf = (kind: ParameterKind) => (kind === 'percent' ? 'grade' : kind === 'one_in' ? 'one_in' : 'number')
export const decimalsOf = (kind: ParameterKind) => (kind === 'height' ? 3 : 2)

export function sayParameter(kind: ParameterKind, v: number | string): string {
  if (typeof v === 'string') return v
  if (kind === 'percent') return `${formatNumber(100 * v, 2)} %`
  if (kind === 'one_in') return `1 in ${formatNumber(v, 2)}`
  return unitOf(kind) === 'm' ? sayLength(v, decimalsOf(kind)) : `${formatNumber(v, 2)}${unitOf(kind)}`
}
