import { describe, expect, it } from 'vitest'
import { marksOf, movedTowards, ribbon } from './marks'

describe('marks on a carriageway', () => {
  const straight = [
    [0, 0, 5],
    [60, 0, 6],
  ] as const
  it('are whole or broken by length along the line, as wide as they are to be and just over it', () => {
    const whole = ribbon(straight, false)
    expect(whole.points.length / 3).toBe(4)
    const across = whole.points.filter((_, i) => i % 3 === 1)
    expect(Math.max(...across) - Math.min(...across)).toBeCloseTo(0.15, 6)
    expect(whole.points[2]! - 5).toBeGreaterThan(0)
    const broken = ribbon(straight, true)
    const starts = broken.points.filter((_, i) => i % 12 === 0)
    expect(starts.map((x) => Math.round(x))).toEqual([0, 12, 24, 36, 48])
    const pieces = ribbon([straight[0], [30, 0, 5.5], straight[1]], true) // a vertex in between changes nothing of the rhythm
    expect(pieces.points.filter((_, i) => i % 12 === 0).map((x) => Math.round(x))).toEqual([0, 12, 24, 36, 48])
  })
  it('lie inside the pavement, in its middle at most', () => {
    const edge = new Float32Array([0, 3, 0, 10, 0.2, 0])
    const centre = new Float32Array([0, 0, 0, 10, 0, 0])
    const moved = movedTowards(edge, centre, 0.3)
    expect(moved[0]![1]).toBeCloseTo(2.7, 5)
    expect(moved[1]![1]).toBeCloseTo(0.1, 5)
    expect(marksOf([{ centre, edge, side: 'left' }])).toHaveLength(2)
    expect(marksOf([{ centre, edge, side: 'right' }])).toHaveLength(1)
  })
})
