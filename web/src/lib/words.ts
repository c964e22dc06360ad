/** Numbers of things, in words that fit the number. */
import { formatNumber } from './format'

/** '1 line', '12 500 points'. */
export const counted = (n: number, one: string, many = `${one}s`) => `${formatNumber(n, 0)} ${n === 1 ? one : many}`
