import { describe, expect, it } from 'vitest'
import type { Pen } from '../shared/pen'
import { drawFlow, drawGroundLines, drawPoints, drawSpots, mappingLayers, showsPoints, type GroundLines } from './groundLayers'
import { frameOf } from '../model/cutting'
import { standing } from '../model/mapping'
import { bandColour, bandLimits, makeMesh, paintTerrain, SLOPE_BANDS } from './terrain'

/** Records what is drawn: a row of [call, ...numbers], and the style when a path is stroked. */
function recorder() {
  const calls: [string, ...unknown[]][] = []
  const state: Record<string, unknown> = {}
  const pen = new Proxy(state, {
    get: (_, name: string) =>
      name in state ? state[name] : (...args: unknown[]) => calls.push([name, ...args, ...(name === 'stroke' ? [state.strokeStyle] : [])]),
    set: (_, name: string, value) => ((state[name] = value), true),
  }) as unknown as Pen
  return { pen, calls, of: (name: string) => calls.filter((c) => c[0] === name) }
}
const view = { e: 1050, n: 2050, scale: 2, width: 400, height: 300 }
const lines: GroundLines = {
  origin: [1000, 2000],
  vertices: Float32Array.of(0, 0, 5, 50, 50, 6, 100, 100, 7, 0, 100, 1, 100, 0, 1),
  starts: Uint32Array.of(0, 3, 5),
  heads: Uint32Array.of(1, 9, 0, 0, 0, 4, 9, 1, 1, 0),
  own: Uint32Array.of(1, 0, 1, 1, 1),
  heights: Float32Array.of(0, 0),
  layers: ['BANK', 'FENCE'],
}
/** A plane over a square of 100 m that falls to the east by `fall`. */
const plane = (fall: number) =>
  makeMesh(
    [1000, 2000],
    Float32Array.of(0, 0, 100, 100, 0, 100 - 100 * fall, 100, 100, 100 - 100 * fall, 0, 100, 100),
    Uint32Array.of(0, 1, 2, 0, 2, 3),
    new Uint32Array(),
    [1000, 2000, 1100, 2100],
    [100 - 100 * fall, 100],
  )

describe('received lines', () => {
  it('draws only the roles asked for, each in its own style', () => {
    const r = recorder()
    drawGroundLines(r.pen, lines, { ...view, scale: 1 }, ['background'])
    expect(r.of('stroke')).toEqual([['stroke', '#8b979d']])
    expect(r.of('lineTo')).toHaveLength(1)
    const none = recorder()
    drawGroundLines(none.pen, lines, { ...view, scale: 1 }, ['background'], (layer) => layer !== 'FENCE')
    expect(none.of('lineTo')).toHaveLength(0)
    expect(mappingLayers(lines)).toEqual(['FENCE'])
  })
  it('marks own vertices as squares and generated ones as crosses when near', () => {
    const near = recorder(),
      far = recorder()
    drawGroundLines(near.pen, lines, view, ['breakline'])
    drawGroundLines(far.pen, lines, { ...view, scale: 1 }, ['breakline'])
    expect(near.of('stroke')).toHaveLength(3)
    expect(far.of('stroke')).toHaveLength(1)
    expect(near.of('lineTo').length - far.of('lineTo').length).toBe(2 * 4 + 2)
  })
})

describe('what the ground says', () => {
  it('points arrows down the fall and leaves flat ground bare', () => {
    const r = recorder(),
      flat = recorder()
    drawFlow(r.pen, plane(0.1), view)
    drawFlow(flat.pen, plane(0), view)
    expect(flat.of('moveTo')).toHaveLength(0)
    const [tail, head] = [r.of('moveTo')[0]!, r.of('lineTo')[0]!] as [[string, number, number], [string, number, number]]
    expect(head[1] - tail[1]).toBeCloseTo(18)
    expect(head[2] - tail[2]).toBeCloseTo(0)
  })
  it('writes levels of points without overlap, and points only when they can be told apart', () => {
    const r = recorder(),
      dots = recorder()
    drawSpots(r.pen, plane(0.1), { ...view, scale: 1.4 })
    expect(r.of('fillText').map((c) => c[1])).toEqual(['100.00'])
    drawPoints(dots.pen, plane(0.1), { ...view, scale: 1.4 })
    expect(dots.of('moveTo')).toHaveLength(8)
    expect([showsPoints(1), showsPoints(2)]).toEqual([false, true])
  })
})

describe('terrain colours', () => {
  const paint = (mesh: ReturnType<typeof plane>, colours: 'heights' | 'slopes' | 'shade') => {
    const data = new Uint8ClampedArray(40 * 40 * 4)
    paintTerrain(mesh, { e: 1050, n: 2050, scale: 0.35, width: 40, height: 40 }, data, 40, 40, colours)
    const i = (20 * 40 + 20) * 4
    return [data[i]!, data[i + 1]!, data[i + 2]!]
  }
  const hue = (c: readonly number[]) => c.map((v) => v / Math.max(...c))
  it.each([
    [0.01, 0],
    [0.03, 1],
    [0.07, 2],
    [0.15, 3],
    [0.3, 4],
    [0.9, 5],
  ])('puts a slope of %s m/m into band %i', (slope, band) => {
    const seen = hue(paint(plane(slope), 'slopes')),
      wanted = hue(SLOPE_BANDS[band]!.colour)
    seen.forEach((v, k) => expect(Math.abs(v - wanted[k]!)).toBeLessThan(0.05))
  })
  it('paints what lies far outside the limits as doubtful, so that a bad point neither hides the terrain nor itself', () => {
    const mesh = plane(0.1)
    const spike = { ...mesh, levels: [0, 10] as [number, number] } // all of it is 90 m above the limits
    const [red, green] = paint(spike, 'heights') as [number, number]
    expect(red / green).toBeGreaterThan(2.5)
    const [r2, g2] = paint(mesh, 'heights') as [number, number]
    expect(r2 / g2).toBeLessThan(1.3)
  })
})

describe('height bands', () => {
  it('lie on multiples of the step from below the lowest to above the highest level, and stay few', () => {
    expect(bandLimits([12, 27], 5)).toEqual([10, 15, 20, 25, 30])
    expect(bandLimits([-3, 997], 5).length).toBeLessThanOrEqual(16)
    expect(bandLimits([20, 20], 5)).toEqual([20, 25])
  })
  it('differ from their neighbours', () => {
    const colours = Array.from({ length: 14 }, (_, i) => bandColour(i, 14))
    for (let i = 0; i + 1 < 14; i++) expect(Math.hypot(...colours[i]!.map((c, k) => c - colours[i + 1]![k]!))).toBeGreaterThan(8)
  })
})

describe('mapping in space', () => {
  const house: GroundLines = {
    origin: [1000, 2000],
    vertices: Float32Array.of(0, 0, 5, 10, 0, 6, 10, 8, 6, 0, 8, 5, 0, 0, 5, 30, 0, 4, 34, 4, 4, 38, 0, 4, 34, -4, 4, 30, 0, 4),
    starts: Uint32Array.of(0, 5, 10),
    heads: Uint32Array.of(4, 1, 0, 0, 0, 4, 1, 1, 1, 1),
    own: new Uint32Array(10).fill(1),
    heights: Float32Array.of(7, 10),
    layers: ['HOUSE', 'TREE'],
  }
  it('gives a closed line with a height four walls and a level roof above its highest ground', () => {
    const { faces } = standing(house, [0, 0], (layer) => layer === 'HOUSE')
    expect(faces).toHaveLength(9 * (4 * 2 + 2))
    expect(Math.max(...faces.filter((_, i) => i % 3 === 2))).toBe(13)
  })
  it('puts a crown over a circle, of its radius and height', () => {
    const { crowns } = standing(house, [100, 0], (layer) => layer === 'TREE')
    expect(crowns).toHaveLength(1)
    const [, , z, radius, half] = crowns[0]!
    expect(z + half).toBeCloseTo(4 + 10)
    expect(radius).toBeGreaterThan(3.9)
  })
})

describe('the picture of what is built', () => {
  it('holds both toes with a margin and stays within its size', () => {
    const f = frameOf([{ left: Float32Array.of(0, 0, 5, 2400, 30, 6), right: Float32Array.of(0, -20, 5, 2400, 10, 6) }])
    expect(Math.max(f.width, f.height)).toBeLessThanOrEqual(2048)
    expect(f.e0).toBeLessThan(0)
    expect(f.n0).toBeLessThan(-20)
    expect(f.e0 + f.width / f.scale).toBeGreaterThan(2400)
    expect(f.n0 + f.height / f.scale).toBeGreaterThan(30)
    const near = frameOf([{ left: Float32Array.of(0, 0, 0, 10, 0, 0), right: Float32Array.of(0, 5, 0, 10, 5, 0) }])
    expect(near.scale).toBe(4) // never finer than needed
  })
})
