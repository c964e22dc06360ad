import { describe, expect, it } from 'vitest'
import { barLength, fitExtent, panBy, toScreen, toWorld, zoomAt, type ViewTransform } from './viewTransform'

const view: ViewTransform = { e: 412_000, n: 687_000, scale: 0.37, width: 900, height: 500 }

describe('the plan view', () => {
  it('goes to the screen and back', () => {
    for (const [e, n] of [
      [412_000, 687_000],
      [411_234.567, 687_891.2],
      [0, 6_200_000],
    ] as const) {
      const [x, y] = toScreen(view, e, n)
      const [e2, n2] = toWorld(view, x, y)
      expect(e2).toBeCloseTo(e, 6)
      expect(n2).toBeCloseTo(n, 6)
    }
  })
  it('has north up and east to the right', () => {
    expect(toScreen(view, 412_100, 687_000)[0]).toBeGreaterThan(450)
    expect(toScreen(view, 412_000, 687_100)[1]).toBeLessThan(250)
  })
  it('holds the place under the pointer while zooming', () => {
    const before = toWorld(view, 123, 321)
    const after = toWorld(zoomAt(view, 123, 321, 2.5), 123, 321)
    expect(after[0]).toBeCloseTo(before[0], 6)
    expect(after[1]).toBeCloseTo(before[1], 6)
  })
  it('moves with the pointer while panning', () => {
    const [x, y] = toScreen(panBy(view, 40, -30), 412_000, 687_000)
    expect([x, y].map(Math.round)).toEqual([490, 220])
  })
  it('shows the whole extent', () => {
    const v = fitExtent(view, [411_000, 686_000, 414_000, 688_000])
    const [x, y] = toScreen(v, 411_000, 688_000)
    expect(x).toBeGreaterThan(0)
    expect(y).toBeGreaterThan(0)
  })
  it('chooses round bars', () => {
    expect(barLength(0.37, 120)).toBe(200)
    expect(barLength(20, 120)).toBe(5)
  })
})
