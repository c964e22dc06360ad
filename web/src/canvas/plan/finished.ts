/** The finished ground in plan: borders between pavement, verge, slope and ground, and contours of what is built. */
import type { Packed } from '@/api/client'
import type { Pen } from '../shared/pen'
import { toScreen, type ViewTransform } from '../shared/viewTransform'

const BORDER = '#3f8996'
const CONTOUR = '#0e5a68'
const STRONG = 5 // every so-many-th contour
const NEAR = 1.2 // px a metre from which contours are drawn

/** `near`: what a drag makes of it, drawn in its boxes in place of the whole. */
export function drawFinished(pen: Pen, p: Packed, view: ViewTransform, near: Packed | null = null): void {
  if (!near) return drawAll(pen, p, view)
  for (const inside of [false, true]) {
    pen.save()
    pen.beginPath()
    if (!inside) pen.rect(0, 0, view.width, view.height)
    for (const [e0, n0, e1, n1] of near.header.boxes as [number, number, number, number][]) {
      const [x, y] = toScreen(view, e0, n1)
      pen.rect(x, y, (e1 - e0) * view.scale, (n1 - n0) * view.scale)
    }
    pen.clip(inside ? 'nonzero' : 'evenodd')
    drawAll(pen, inside ? near : p, view)
    pen.restore()
  }
}

function drawAll(pen: Pen, p: Packed, view: ViewTransform): void {
  const [ox, oy] = toScreen(view, p.header.origin[0], p.header.origin[1])
  const s = view.scale
  const borders = p.floats.borders!
  pen.strokeStyle = BORDER
  pen.lineWidth = 0.9
  pen.beginPath()
  for (let i = 0; i < borders.length; i += 4) {
    const [x, y] = [ox + borders[i]! * s, oy - borders[i + 1]! * s]
    if (x < -50 || y < -50 || x > view.width + 50 || y > view.height + 50) continue
    pen.moveTo(x, y)
    pen.lineTo(ox + borders[i + 2]! * s, oy - borders[i + 3]! * s)
  }
  pen.stroke()
  if (s < NEAR) return
  const { xy, levels } = p.floats
  const starts = p.ints.starts!
  const interval = p.header.interval as number
  pen.strokeStyle = CONTOUR
  for (const strong of [false, true]) {
    pen.globalAlpha = strong ? 0.9 : 0.5
    pen.lineWidth = strong ? 1 : 0.6
    pen.beginPath()
    for (let i = 0; i + 1 < starts.length; i++) {
      if ((Math.round(levels![i]! / interval) % STRONG === 0) !== strong) continue
      for (let k = starts[i]!; k < starts[i + 1]!; k++) {
        const [x, y] = [ox + xy![2 * k]! * s, oy - xy![2 * k + 1]! * s]
        if (k === starts[i]) pen.moveTo(x, y)
        else pen.lineTo(x, y)
      }
    }
    pen.stroke()
  }
  pen.globalAlpha = 1
}
