import { describe, expect, it } from 'vitest'
import { inGroups } from './alike'

describe('findings that are alike', () => {
  it('are one group with all of them from three on, in the order in which each kind comes first', () => {
    const f = (code: string, at: number, way = '') => ({ code, at, way })
    const all = [f('spike', 1), f('twice', 2), f('spike', 3), f('gap', 4), f('spike', 5), f('spike', 6, 'keep'), f('twice', 7)]
    const groups = inGroups(all, (x) => x.way)
    expect(groups.map((g) => g.all.map((x) => x.at))).toEqual([[1, 3, 5], [2], [7], [4], [6]])
    expect(new Set(groups.map((g) => g.id)).size).toBe(groups.length)
  })
})
