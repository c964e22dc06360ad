import { describe, expect, it } from 'vitest'
import { cutFillPaths } from './cutFill'

const text = (s: number, z: number) => `${s} ${z}`
/** Area of all closed pieces of such a path. */
function area(path: string): number {
  return path
    .split('Z')
    .filter(Boolean)
    .reduce((sum, piece) => {
      const p = piece
        .slice(1)
        .split('L')
        .map((t) => t.split(' ').map(Number) as [number, number])
      return sum + Math.abs(p.reduce((s, [x, y], i) => s + x * p[(i + 1) % p.length]![1] - p[(i + 1) % p.length]![0] * y, 0)) / 2
    }, 0)
}

describe('cut and fill between two lines', () => {
  it('splits where the lines cross', () => {
    const { cut, fill } = cutFillPaths(
      [
        [0, 2],
        [10, -2],
      ],
      [
        [0, 0],
        [10, 0],
      ],
      text,
    )
    expect(area(cut)).toBeCloseTo(5)
    expect(area(fill)).toBeCloseTo(5)
    expect(cut).toContain('5 0')
  })
  it('keeps to the design and to where the ground is known', () => {
    const { cut, fill } = cutFillPaths(
      [
        [-5, 1],
        [4, 1],
        [5, null],
        [6, 1],
        [20, 1],
      ],
      [
        [0, 0],
        [10, 0],
      ],
      text,
    )
    expect(area(cut)).toBeCloseTo(4 + 4)
    expect(fill).toBe('')
  })
  it('has nothing to show without a design', () => {
    expect(
      cutFillPaths(
        [
          [0, 1],
          [9, 1],
        ],
        [],
        text,
      ),
    ).toEqual({ cut: '', fill: '' })
  })
  it('is one loop a stretch, and its areas are the integral of the difference', () => {
    const wave = (k: number, shift: number) =>
      Array.from({ length: 201 }, (_, i) => [i * 0.5, Math.sin(i * 0.5 * k + shift)] as [number, number])
    const ground = wave(0.2, 0.3),
      design = wave(0.13, 1.1)
    const { cut, fill } = cutFillPaths(ground, design, text)
    const differences = ground.map((g, i) => g[1] - design[i]![1])
    let above = 0,
      crossings = 0
    for (let i = 0; i + 1 < differences.length; i++) {
      const [p, q] = [differences[i]!, differences[i + 1]!]
      if (p * q < 0) crossings++
      above += p > 0 && q > 0 ? 0.25 * (p + q) : p * q < 0 ? (0.25 * Math.max(p, q) ** 2) / Math.abs(p - q) : 0
    }
    expect(area(cut)).toBeCloseTo(above, 6)
    expect(area(cut) - area(fill)).toBeCloseTo(
      differences.slice(1).reduce((s, d, i) => s + 0.25 * (d + differences[i]!), 0),
      6,
    )
    expect((cut + fill).split('Z').length - 1).toBe(crossings + 1)
  })
  it('joins again after touching', () => {
    const { cut, fill } = cutFillPaths(
      [
        [0, 1],
        [5, 0],
        [10, 1],
      ],
      [
        [0, 0],
        [10, 0],
      ],
      text,
    )
    expect(area(cut)).toBeCloseTo(5)
    expect(fill).toBe('')
  })
  it('goes up and down upright edges', () => {
    const trench: [number, number][] = [[0, 0], [2, 0], [2, -3], [4, -3], [4, 1], [6, 1]] // prettier-ignore
    const { cut, fill } = cutFillPaths([[0, 0], [6, 0]], trench, text) // prettier-ignore
    expect(area(cut)).toBeCloseTo(6)
    expect(area(fill)).toBeCloseTo(2)
    const step = cutFillPaths([[0, 1], [3, 1], [3, 2], [6, 2]], [[0, 0], [6, 0]], text) // prettier-ignore
    expect(area(step.cut)).toBeCloseTo(9)
    expect(step.cut.split('Z').length - 1).toBe(1)
  })
})
