import { describe, expect, it } from 'vitest'
import { AppError } from '@/api/client'
import { apart, keptOf, nearRoads, notBuilt } from './useBuiltBeside'

const road = (id: number, n: number, from = 0) => ({
  road_id: id,
  name: `R${id}`,
  points: Array.from({ length: 90 }, (_, i) => [from + 10 * i, n, i % 7 ? 50 : null] as [number, number, number | null]),
  problems: {},
})

describe('roads that are built beside the active one', () => {
  it('are those within 300 m, the nearest first, twelve at most', () => {
    const own = road(0, 0).points
    const found = nearRoads(own, [road(1, 290), road(2, 20), road(3, 400), road(4, 0, 5000), { ...road(5, 0), points: [] }])
    expect(found.map((r) => r.road_id)).toEqual([2, 1])
    const many = nearRoads(
      own,
      Array.from({ length: 30 }, (_, i) => road(i + 1, 5 * (30 - i))),
    )
    expect(many).toHaveLength(12)
    expect(many[0]!.road_id).toBe(30)
  })
  it('are told apart by ends too, however many points a line has', () => {
    expect(apart(road(1, 0).points, [[1000, 0, null]])).toBeCloseTo(110, 6)
    expect(apart([], road(1, 0).points)).toBe(Infinity)
  })

  it('stay as they were until they come anew, but not in place of another', () => {
    expect(keptOf(2)(null, { queryKey: ['model-beside', 2, 7] })).toBe(null)
    expect(keptOf(2)(null, { queryKey: ['model-beside', 3, 7] })).toBe(undefined)
  })

  it('are light lines where they cannot be built, and asked again where the server did not answer', () => {
    expect(notBuilt(new AppError(422, 'told', 'Told.'))).toBe(null)
    for (const error of [new AppError(503, 'told', 'Told.'), new TypeError('network')]) expect(() => notBuilt(error)).toThrow()
  })
})
