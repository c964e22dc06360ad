/** What is written into a drawn section: names, slopes, widths, levels and layers, each a label that is placed where nothing lies. */
import type { Section, SectionSide } from '@/api/types'
import { formatSlope } from './format'
import type { Label } from './labels'
import { bareLength, sayLength } from './units'

export interface SectionShow {
  names: boolean
  slopes: boolean
  widths: boolean
  levels: boolean
  layers: boolean
}
type Scale = (v: number) => number
type Place = [number, number]

const nodesOf = (s: SectionSide, index: readonly number[]): Place[] => index.map((i) => [s.nodes[i]!.offset, s.nodes[i]!.level])
/** The finished line of one side, outward. */
export const finishedLine = (s: SectionSide): Place[] => nodesOf(s, [...new Set(s.links.flatMap((l) => [l.from, l.to]))])
/** The formation from the left end to the right one. */
export function formationLine(sides: readonly SectionSide[]): Place[] {
  const of = (side: string) => sides.filter((s) => s.side === side).flatMap((s) => nodesOf(s, s.formation))
  return [...of('left').reverse(), ...of('right')]
}

/** Upright thickness of a loop at an offset. */
function thicknessAt(loop: readonly (readonly number[])[], offset: number): [number, number] | null {
  const levels = loop.flatMap((p, i) => {
    const q = loop[(i + 1) % loop.length]!
    const [a, b] = [p[0]! - offset, q[0]! - offset]
    return a * b < 0 ? [p[1]! + ((q[1]! - p[1]!) * a) / (a - b)] : []
  })
  return levels.length > 1 ? [Math.min(...levels), Math.max(...levels)] : null
}

/** Material and upright thickness of each layer, under them all, on a leader from inside its own. */
function layerTexts(s: SectionSide, x: Scale, y: Scale): Label[] {
  const low = Math.max(...s.layers.flatMap((l) => l.points.map((p) => y(p[1]))))
  return s.layers.flatMap((l, i) => {
    const offsets = l.points.map((p) => p[0])
    const [least, most] = [Math.min(...offsets), Math.max(...offsets)]
    const at = least + ((most - least) * (s.side === 'left' ? s.layers.length - i : i + 1)) / (s.layers.length + 1)
    const between = thicknessAt(l.points, at)
    if (!between || between[1] - between[0] < 5e-3) return []
    const text = `${l.material} ${bareLength(between[1] - between[0], 2)}`
    const from = { x: x(at), y: y((between[0] + between[1]) / 2) }
    return [{ key: `l${s.side}${i}`, x: from.x, y: low, from, text, rank: 6 - i * 0.1, sides: ['below', 'under', 'deep', 'deeper'] }]
  })
}

/** `names`: of the nodes that are named, else those of roles. */
export function sectionTexts(sides: Section['sides'], show: SectionShow, x: Scale, y: Scale): Label[] {
  const out: Label[] = []
  for (const s of sides) {
    for (const n of s.nodes) {
      if (n.guide || n.below) continue
      const [px, py] = [x(n.offset), y(n.level)]
      if (show.names && n.role && !(s.side === 'right' && n.offset === 0))
        out.push({ key: `n${s.side}${n.name}`, x: px, y: py, text: n.role, rank: 2, sides: ['above', 'over', 'high', 'below'] })
      if (show.levels) out.push({ key: `z${s.side}${n.name}`, x: px, y: py, text: bareLength(n.level, 3), rank: 5 })
    }
    for (const l of s.links) {
      const [a, b] = [s.nodes[l.from]!, s.nodes[l.to]!]
      const [dx, dy] = [x(b.offset) - x(a.offset), y(b.level) - y(a.level)]
      const middle = { x: x(a.offset) + dx / 2, y: y(a.level) + dy / 2 }
      const key = `${s.side}${a.name}${b.name}`
      const slope = formatSlope(l.slope)
      if (show.slopes && slope !== '–' && Math.hypot(dx, dy) > slope.length * 5.5)
        out.push({ key: `s${key}`, ...middle, text: slope, rank: 3, sides: ['above', 'below', 'over', 'under'] })
      const width = bareLength(Math.abs(b.offset - a.offset), 2)
      if (show.widths && Math.abs(dx) > width.length * 6.5)
        out.push({ key: `w${key}`, ...middle, text: width, rank: 4, sides: ['above', 'over', 'high'] })
    }
    if (show.layers) out.push(...layerTexts(s, x, y))
  }
  return out
}

/** A distance measured in a section: its length, how far across and up, and its slope. */
export function saySpan(a: readonly [number, number], b: readonly [number, number]): string {
  const across = Math.abs(b[0] - a[0])
  const up = b[1] - a[1]
  const slope = across < 1e-6 ? '' : `, ${formatSlope(up / across)}`
  return `${sayLength(Math.hypot(across, up), 3)} long, ${sayLength(across, 3)} across, ${sayLength(up, 3, true)} up${slope}`
}
