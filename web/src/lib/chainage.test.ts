import { describe, expect, it } from 'vitest'
import { countedAt, roundStations, stationsOf } from './chainage'

// at 500 the count goes on from 520 (a gap), at 900 (counted 920) it goes back to 880 (an overlap)
const equations = [
  [500, 20],
  [900, -40],
] as const

describe('chainage equations', () => {
  it('counts on after a gap and back after an overlap', () => {
    expect([400, 500, 501, 900, 950].map((s) => countedAt(s, equations))).toEqual([400, 500, 521, 920, 930])
  })
  it('finds no place in a gap, one where the count is single, and two where it overlaps', () => {
    expect(stationsOf(510, equations, [0, 1200])).toEqual([])
    expect(stationsOf(600, equations, [0, 1200])).toEqual([580])
    expect(stationsOf(900, equations, [0, 1200])).toEqual([880, 920])
    expect(stationsOf(5000, equations, [0, 1200])).toEqual([])
  })
  it('marks round chainages, not round stations, behind an equation', () => {
    const marks = roundStations([0, 1100], 100, equations)
    expect(marks).toEqual([0, 100, 200, 300, 400, 500, 580, 680, 780, 880, 920, 1020])
    expect(marks.every((s) => countedAt(s, equations) % 100 === 0)).toBe(true)
    expect(roundStations([0, 1100], 0, [])).toEqual([])
  })
})
