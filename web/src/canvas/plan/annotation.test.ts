import { describe, expect, it } from 'vitest'
import type { LineElement } from '@/api/types'
import { annotate, onScreen, overlap, textPx, type AnnotationStyle, type Label } from './annotation'

const element = (kind: LineElement['kind'], start: number, end: number, more: Partial<LineElement> = {}) => ({
  kind,
  start,
  end,
  length: end - start,
  radius_start: null,
  radius_end: null,
  azimuth_deg: 90,
  easting: 0,
  northing: 0,
  pi: -1,
  parameter: null,
  ...more,
})
// a line to the east; chainage is easting
const elements = [
  element('Line', 0, 200),
  element('Spiral', 200, 240, { radius_end: 300, parameter: 109.54 }),
  element('Curve', 240, 400, { radius_start: 300, radius_end: 300 }),
  element('Line', 400, 700),
]
const style: AnnotationStyle = { scale: 1000, tick: 20, text: 100, points: true, elements: true, size: 2.5, away: 3 }
const draw = (s: Partial<AnnotationStyle> = {}) =>
  annotate(
    elements,
    [0, 700],
    { ...style, ...s },
    (at) => ({ e: at, n: 0, azimuth: Math.PI / 2 }),
    (at) => at.toFixed(0),
    (t) => 0.6 * t.length,
  )

describe('annotation of a line', () => {
  it('ticks, names tangent points, and tells what elements are', () => {
    const a = draw()
    expect(a.ticks).toHaveLength(36)
    expect(a.points.map((p) => p.e)).toEqual([200, 240, 400])
    const texts = a.labels.map((l) => l.text)
    expect(texts).toEqual(expect.arrayContaining(['TS 200', 'SC 240', 'CT 400', 'R 300.00', 'A 109.54', 'L 200.00', '0', '700']))
  })
  it('keeps texts apart at every scale, and counts what finds no place', () => {
    for (const scale of [250, 1000, 5000, 20000]) {
      const a = draw({ scale })
      a.labels.forEach((l, i) => a.labels.slice(i + 1).forEach((m) => expect(overlap(l, m)).toBe(false)))
    }
    expect(draw({ scale: 20000 }).dropped).toBeGreaterThan(0)
    expect(draw().dropped).toBe(0)
  })
  it('grows with the scale, since sizes are those on paper', () => {
    expect(draw({ scale: 2000 }).labels[0]!.height).toBe(2 * draw().labels[0]!.height)
  })
  it('knows that turned texts may pass each other closely', () => {
    const text = { text: '', kind: 'point', e: 0, n: 0, turn: Math.PI / 4, width: 10, height: 1, at: { e: 0, n: 0, azimuth: 0 } } as Label
    expect(overlap(text, { ...text, e: 2, n: -2 })).toBe(false)
    expect(overlap(text, { ...text, e: 2, n: 2 })).toBe(true)
  })

  it('can be read at any zoom, and keeps its true size where that is asked for', () => {
    const view = (scale: number) => ({ e: 0, n: 0, scale, width: 800, height: 400 })
    for (const scale of [0.02, 0.1, 1, 5, 60]) {
      const px = textPx(onScreen({ ...style, scale: 1250 }, view(scale)), view(scale))
      expect(px).toBeGreaterThan(8.5)
      expect(px).toBeLessThan(15.7)
      expect(textPx(onScreen({ ...style, scale: 1250 }, view(scale), true), view(scale))).toBeCloseTo(3.125 * scale, 9)
    }
    expect(onScreen({ ...style, scale: 1250 }, view(4)).scale).toBe(1250) // 12.5 px: as on paper
    const far = draw({ scale: 200_000, points: false, elements: false })
    expect(far.labels.length).toBeGreaterThan(0)
    expect(far.labels.length + far.dropped).toBe(8)
  })
})
