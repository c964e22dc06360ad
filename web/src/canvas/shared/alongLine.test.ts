import { describe, expect, it } from 'vitest'
import { levelAt, placeAt, stationOf, type LinePoints } from './alongLine'

const north: LinePoints = [[0, 100, 200, 0, 0], [50, 100, 250, 0, 0], [100, 100, 300, 0, 0]]

describe('places along a line', () => {
  it('finds a place and its station again', () => {
    const p = placeAt(north, 62.5)!
    expect([p.e, p.n]).toEqual([100, 262.5])
    expect(stationOf(north, p.e, p.n)!.station).toBeCloseTo(62.5, 9)
  })
  it('counts offsets to the right as positive', () => {
    expect(stationOf(north, 103, 240)).toEqual({ station: 40, offset: 3 })
    expect(stationOf(north, 95, 240)!.offset).toBe(-5)
  })
  it('turns the short way through north', () => {
    const points: LinePoints = [[0, 0, 0, 6.2, 0], [10, 0, 10, 0.1, 0]]
    expect(placeAt(points, 5)!.azimuth).toBeCloseTo((6.2 + 0.1 + 2 * Math.PI) / 2, 6)
  })
  it('knows no level over a gap or outside', () => {
    const ground = [[0, 10], [10, 12], [20, null], [30, 14]] as [number, number | null][]
    expect(levelAt(ground, 5)).toBe(11)
    expect(levelAt(ground, 15)).toBeNull()
    expect(levelAt(ground, 31)).toBeNull()
  })
})
