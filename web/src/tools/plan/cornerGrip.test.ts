import { describe, expect, it } from 'vitest'
import { radiusAt, radiusWithTangentAt } from './cornerGrip'

/** A corner of some angle at a place, with its arc, by tangents of length R tan(deflection / 2). */
function corner(radius: number, turn: number) {
  const tip = [100, 200] as const
  const tangent = radius * Math.tan(turn / 2)
  const [first, second] = [
    [0, -1],
    [Math.sin(turn), Math.cos(turn)],
  ] as const // away from the tip along both edges
  const start = { place: [tip[0] + tangent * first[0], tip[1] + tangent * first[1]] }
  const end = { place: [tip[0] + tangent * second[0], tip[1] + tangent * second[1]] }
  const half = [first[0] + second[0], first[1] + second[1]]
  const length = Math.hypot(half[0]!, half[1]!)
  const to = (far: number) => [tip[0] + (far * half[0]!) / length, tip[1] + (far * half[1]!) / length] as [number, number]
  const beyond = radius / Math.cos(turn / 2)
  return { at: to, corner: { centre: to(beyond), handle: to(beyond - radius), start, end, shape: { radius, form: 'radius' } } }
}

describe('a corner dragged by the middle of its arc', () => {
  it('has the radius whose arc passes the pointer', () => {
    for (const turn of [0.9, Math.PI / 2, 2.2])
      for (const radius of [4, 10, 25]) {
        const { corner: made } = corner(12, turn)
        const wanted = corner(radius, turn)
        const middle = wanted.at(radius / Math.cos(turn / 2) - radius)
        expect(radiusAt(made as never, { e: middle[0], n: middle[1] })).toBeCloseTo(radius, 1)
      }
  })
  it('has the radius whose tangent point lies at the foot of the pointer on the edge', () => {
    for (const turn of [0.9, Math.PI / 2, 2.2])
      for (const which of ['start', 'end'] as const) {
        const { corner: made } = corner(12, turn)
        const wanted = corner(20, turn).corner
        const [e, n] = wanted[which].place
        const edge = [e! - 100, n! - 200]
        const beside = { e: e! + 3 * (edge[1]! / Math.hypot(...edge)), n: n! - 3 * (edge[0]! / Math.hypot(...edge)) }
        expect(radiusWithTangentAt(made as never, which, beside)).toBeCloseTo(20, 1)
      }
    const tapered = { ...corner(12, 1.2).corner, shape: { radius: 12, form: 'taper' } }
    expect(radiusWithTangentAt(tapered as never, 'end', { e: 0, n: 0 })).toBeNull()
  })
  it('is never less than a metre, and has none before it is computed', () => {
    const { corner: made, at } = corner(12, 1.6)
    const [e, n] = at(-30)
    expect(radiusAt(made as never, { e, n })).toBe(1)
    expect(radiusAt({ shape: { radius: 5 } } as never, { e, n })).toBeNull()
  })
})
