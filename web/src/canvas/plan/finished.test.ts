import { expect, it } from 'vitest'
import type { Packed } from '@/api/client'
import type { Pen } from '../shared/pen'
import { drawFinished } from './finished'

/** A pen that tells which lines it drew, and inside of which clip. */
function recording() {
  const lines: { clip: string; from: number[]; to: number[] }[] = []
  const rects: number[][] = []
  const clips: string[] = []
  let at: number[] = []
  const pen = new Proxy({} as Pen, {
    set: () => true,
    get: (_, name) => {
      if (name === 'moveTo') return (x: number, y: number) => (at = [x, y])
      if (name === 'lineTo')
        return (x: number, y: number) => (lines.push({ clip: clips.at(-1) ?? '', from: at, to: [x, y] }), (at = [x, y]))
      if (name === 'rect') return (...r: number[]) => rects.push(r)
      if (name === 'clip') return (rule: string) => clips.push(rule)
      if (name === 'restore') return () => clips.pop()
      return () => undefined
    },
  })
  return { pen, lines, rects }
}
const packed = (e: number, boxes?: number[][]): Packed => ({
  header: { origin: [1000, 2000], interval: 0.25, boxes },
  floats: {
    borders: new Float32Array([e, 0, e + 10, 0]),
    xy: new Float32Array([e, 5, e + 1, 6, e + 2, 5]),
    levels: new Float32Array([50.25]),
  },
  ints: { starts: new Uint32Array([0, 3]) },
})
const view = { e: 1050, n: 2000, scale: 2, width: 400, height: 300 } as never

it('draws borders and, from near, contours where they lie', () => {
  const { pen, lines } = recording()
  drawFinished(pen, packed(50), view)
  expect(lines).toHaveLength(3)
  expect(lines[0]!.to[0]! - lines[0]!.from[0]!).toBeCloseTo(20)
  expect(lines[1]!.from[1]! - lines[1]!.to[1]!).toBeCloseTo(2)
  const far = recording()
  drawFinished(far.pen, packed(50), { e: 1050, n: 2000, scale: 1, width: 400, height: 300 } as never)
  expect(far.lines).toHaveLength(1)
})

it('draws what a drag makes only in its boxes, and the whole only outside of them', () => {
  const { pen, lines, rects } = recording()
  drawFinished(pen, packed(50), view, packed(60, [[1040, 1990, 1070, 2010]]))
  const whole = lines.filter((l) => l.clip === 'evenodd')
  const tried = lines.filter((l) => l.clip === 'nonzero')
  expect([whole.length, tried.length]).toEqual([3, 3])
  expect(tried[0]!.from[0]! - whole[0]!.from[0]!).toBeCloseTo(20)
  expect(rects).toHaveLength(3)
  expect(rects[1]!.slice(2)).toEqual([60, 40])
  expect(rects[2]).toEqual(rects[1])
})
