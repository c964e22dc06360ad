/** Texts beside places so that none touches another: each is tried above, below, right and left of its place; what finds no room is
 * left out, the least important first. */
export interface Label {
  key: string
  x: number
  y: number
  text: string
  /** the smaller, the earlier it is placed */
  rank: number
  /** where a leader to it begins, if it has one */
  from?: { x: number; y: number }
  /** where it may stand, best first; else all four */
  sides?: Side[]
}
/** over, high, under, deep and deeper: a row and more away from the place, where the nearest one is taken */
export type Side = 'above' | 'below' | 'right' | 'left' | 'over' | 'high' | 'under' | 'deep' | 'deeper'
export interface PlacedLabel extends Label {
  /** of the middle of the text */
  at: { x: number; y: number }
}
export interface Box {
  x0: number
  x1: number
  y0: number
  y1: number
}
const GAP = 3 // px between texts, and between a text and its place
const SIDES: Side[] = ['above', 'below', 'right', 'left']
const ROWS: Partial<Record<Side, number>> = { above: -1, over: -2.3, high: -3.6, below: 1, under: 2.3, deep: 3.6, deeper: 4.9 }

/** `wide` px of a character at this size; the width of a text is estimated so that labels can be placed without drawing. */
export function placeLabels(labels: readonly Label[], within: Box, taken: readonly Box[] = [], size = 11, wide = 0.56): PlacedLabel[] {
  const boxes: Box[] = [...taken]
  const out: PlacedLabel[] = []
  for (const label of [...labels].sort((a, b) => a.rank - b.rank)) {
    const w = label.text.length * size * wide + 2,
      h = size + 2
    for (const side of label.sides ?? SIDES) {
      const dx = side === 'right' ? w / 2 + 6 : side === 'left' ? -w / 2 - 6 : 0
      const dy = (ROWS[side] ?? 0) * (h / 2 + 6.5)
      const box = boxAt(label.x + dx, label.y + dy, w, h)
      const inside = box.x0 >= within.x0 && box.x1 <= within.x1 && box.y0 >= within.y0 && box.y1 <= within.y1
      if (!inside || boxes.some((b) => touch(b, box))) continue
      boxes.push(box)
      out.push({ ...label, at: { x: label.x + dx, y: label.y + dy } })
      break
    }
  }
  return out
}
/** A place that texts keep clear of. */
export const boxAround = (x: number, y: number, r: number): Box => ({ x0: x - r, x1: x + r, y0: y - r, y1: y + r })
export const boxAt = (x: number, y: number, w: number, h: number): Box => ({ x0: x - w / 2, x1: x + w / 2, y0: y - h / 2, y1: y + h / 2 })
export const touch = (a: Box, b: Box) => a.x0 < b.x1 + GAP && b.x0 < a.x1 + GAP && a.y0 < b.y1 + GAP && b.y0 < a.y1 + GAP
