import { describe, expect, it } from 'vitest'
import { cutFillPaths } from './cutFill'

const text = (s: number, z: number) => `${s} ${z}`
/** Area of all closed pieces of such a path. */
function area(path: string): number {
  return path.split('Z').filter(Boolean).reduce((sum, piece) => {
    const p = piece.slice(1).split('L').map((t) => t.split(' ').map(Number) as [number, number])
    return sum + Math.abs(p.reduce((s, [x, y], i) => s + x * p[(i + 1) % p.length]![1] - p[(i + 1) % p.length]![0] * y, 0)) / 2
  }, 0)
}

describe('cut and fill between two lines', () => {
  it('splits where the lines cross', () => {
    const { cut, fill } = cutFillPaths([[0, 2], [10, -2]], [[0, 0], [10, 0]], text)
    expect(area(cut)).toBeCloseTo(5)
    expect(area(fill)).toBeCloseTo(5)
    expect(cut).toContain('5 0')
  })
  it('keeps to the design and to where the ground is known', () => {
    const { cut, fill } = cutFillPaths([[-5, 1], [4, 1], [5, null], [6, 1], [20, 1]], [[0, 0], [10, 0]], text)
    expect(area(cut)).toBeCloseTo(4 + 4)
    expect(fill).toBe('')
  })
  it('has nothing to show without a design', () => {
    expect(cutFillPaths([[0, 1], [9, 1]], [], text)).toEqual({ cut: '', fill: '' })
  })
})
