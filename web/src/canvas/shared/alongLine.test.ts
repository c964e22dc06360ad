import { describe, expect, it } from 'vitest'
import { levelAt, placeAt, rowsWithin, stationOf, type LinePoints } from './alongLine'

const north: LinePoints = [
  [0, 100, 200, 0, 0],
  [50, 100, 250, 0, 0],
  [100, 100, 300, 0, 0],
]

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
    const points: LinePoints = [
      [0, 0, 0, 6.2, 0],
      [10, 0, 10, 0.1, 0],
    ]
    expect(placeAt(points, 5)!.azimuth).toBeCloseTo((6.2 + 0.1 + 2 * Math.PI) / 2, 6)
  })
  it('knows no level over a gap or outside', () => {
    const ground = [
      [0, 10],
      [10, 12],
      [20, null],
      [30, 14],
    ] as [number, number | null][]
    expect(levelAt(ground, 5)).toBe(11)
    expect(levelAt(ground, 15)).toBeNull()
    expect(levelAt(ground, 31)).toBeNull()
  })
  it('cuts rows to a range and one beyond, without asking each', () => {
    const rows = Array.from({ length: 100 }, (_, i) => [i * 10, i] as const)
    expect(rowsWithin(rows, 205, 395).map((r) => r[0])).toEqual([
      200, 210, 220, 230, 240, 250, 260, 270, 280, 290, 300, 310, 320, 330, 340, 350, 360, 370, 380, 390, 400,
    ])
    expect(rowsWithin(rows, -50, 5000)).toHaveLength(100)
    expect(rowsWithin(rows, 5000, 6000).map((r) => r[0])).toEqual([980, 990])
  })
})
