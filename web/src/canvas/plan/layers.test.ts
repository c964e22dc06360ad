import { describe, expect, it } from 'vitest'
import type { Pen } from '../shared/pen'
import type { ViewTransform } from '../shared/viewTransform'
import { touch, type Box } from '@/lib/labels'
import { drawChainages, drawContours, drawRoad, drawRoadNames, isMajor, placeChainages, tickInterval } from './layers'

/** A pen that remembers what it is asked to draw. */
function recordingPen() {
  const calls: string[] = []
  const texts: string[] = []
  const pen = new Proxy({} as Pen, {
    get:
      (_, name: string) =>
      (...a: unknown[]) => {
        calls.push(`${name} ${a.map((v) => (typeof v === 'number' ? v.toFixed(1) : v)).join(' ')}`)
        if (name === 'fillText') texts.push(String(a[0]))
        return name === 'measureText' ? { width: 6 * String(a[0]).length } : undefined
      },
    set: () => true,
  })
  return { pen, calls, texts }
}

const view: ViewTransform = { e: 1000, n: 2000, scale: 1, width: 400, height: 200 }
const road = {
  points: [
    [0, 900, 2000, Math.PI / 2, 0],
    [200, 1100, 2000, Math.PI / 2, 0],
  ] as [number, number, number, number, number][],
  edges: {
    origin: [900, 2000] as const,
    lines: [
      { side: 'left', role: 'toe', first: 0, cm: [0, 1000, 20000, 1000] },
      { side: 'right', role: 'toe', first: 0, cm: [0, -1000, 20000, -1000] },
    ],
  },
  roles: [{ name: 'toe', about: '', screen: { colour: '#555', width: 1, dash: [5, 3], fill: '#eee' }, below: false, outline: true }],
  stale: false,
}

describe('plan layers', () => {
  it('draws edge lines at their places: centimetres from the origin', () => {
    const { pen, calls } = recordingPen()
    drawRoad(pen, road, view)
    expect(calls).toContain('moveTo 100.0 90.0')
    expect(calls).toContain('lineTo 300.0 90.0')
    expect(calls).toContain('lineTo 100.0 110.0')
  })
  it('fills between pieces wherever both sides run through, however many there are', () => {
    const { pen, calls } = recordingPen()
    const line = (side: string, first: number, n: number) => ({
      side,
      role: 'toe',
      first,
      cm: Array.from({ length: 2 * n }, (_, i) => (i % 2 ? (side === 'left' ? 1000 : -1000) : (first + i / 2) * 1000)),
    })
    drawRoad(pen, { ...road, edges: { origin: [900, 2000], lines: [line('left', 0, 5), line('left', 8, 6), line('right', 0, 14)] } }, view)
    expect(calls.filter((c) => c.startsWith('fill'))).toHaveLength(2)
    const ends = calls.filter((c) => c.startsWith('moveTo')).slice(0, 2)
    expect(ends).toEqual(['moveTo 100.0 90.0', 'moveTo 180.0 90.0'])
    expect(calls).toContain('lineTo 140.0 110.0') // the right side is taken from the fifth section back
  })
  it('marks chainages at a round interval and writes them through the one place for numbers', () => {
    const { pen, texts } = recordingPen()
    const taken: Box[] = []
    const marks = placeChainages(
      pen,
      road,
      view,
      [],
      (s) => `s${s}`,
      (s) => ({ e: 900 + s, n: 2000, azimuth: Math.PI / 2 }),
      taken,
    )
    drawChainages(pen, marks)
    expect(texts).toEqual(['s0', 's50', 's100', 's150', 's200'])
    expect(tickInterval(0.1)).toBe(500)
    expect(taken).toHaveLength(5)
  })
  it('writes chainages, levels and names of roads where nothing else is written, or not at all', () => {
    const { pen, texts } = recordingPen()
    const at = (s: number) => ({ e: 900 + s, n: 2000, azimuth: Math.PI / 2 })
    const taken: Box[] = [{ x0: 0, x1: 400, y0: 0, y1: 96 }] // all of the upper half
    const marks = placeChainages(pen, road, view, [], (s) => `s${s}`, at, taken)
    expect(marks.every((m) => m.at === null || m.at[1] > 100)).toBe(true) // on the other side of the road
    const before = taken.length
    const lane = {
      road_id: 2,
      name: 'Lane',
      problems: {},
      points: [0, 1, 2].map((i) => [900 + 100 * i, 1950, null] as [number, number, null]),
    }
    drawRoadNames(pen, [lane], view, taken)
    expect(texts).toContain('Lane')
    drawRoadNames(pen, [{ ...lane, name: 'Other' }], view, [{ x0: -1e4, x1: 1e4, y0: -1e4, y1: 1e4 }])
    expect(texts).not.toContain('Other')
    expect(taken.length).toBe(before + 1)
    for (const [i, a] of taken.slice(1).entries()) for (const b of taken.slice(i + 2)) expect(touch(a, b)).toBe(false)
  })
  it('draws every contour once, the major ones apart', () => {
    const { pen, calls } = recordingPen()
    drawContours(
      pen,
      {
        origin: [1000, 2000],
        xy: new Float32Array([0, 0, 10, 0, 0, 5, 10, 5]),
        starts: new Uint32Array([0, 2, 4]),
        levels: new Float32Array([50, 51]),
        interval: 1,
      },
      view,
      { every: 5, minor: '#ccc', major: '#999' },
    )
    expect(calls.filter((c) => c.startsWith('moveTo'))).toEqual(['moveTo 200.0 95.0', 'moveTo 200.0 100.0'])
    expect([isMajor(50, 1, 5), isMajor(51, 1, 5), isMajor(2.5, 0.5, 5)]).toEqual([true, false, true])
  })
})
