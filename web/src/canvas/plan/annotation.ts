/**
 * Annotation of a line: ticks and chainages along it, tangent points, what each element is. Sizes in paper millimetres, never
 * overlapping.
 */
import type { LineElement } from '@/api/types'
import { roundStations, type Equations } from '@/lib/chainage'
import { boxAt, type Box } from '@/lib/labels'
import { units } from '@/lib/units'

const two = (v: number) => (v / units.value.metre).toFixed(2)
import type { Pen } from '../shared/pen'
import { toScreen, type ViewTransform } from '../shared/viewTransform'

export interface AnnotationStyle {
  scale: number
  tick: number
  text: number
  points: boolean
  elements: boolean
  size: number
  away: number
}
export interface Place {
  e: number
  n: number
  azimuth: number
}
/**
 * A text in m on the ground: its middle, turn (rad, from east, counter-clockwise), width and height; what stands at its place on the
 * line.
 */
export interface Label {
  text: string
  kind: 'chainage' | 'point' | 'element'
  e: number
  n: number
  turn: number
  width: number
  height: number
  at: Place
}
export interface Annotation {
  ticks: Place[]
  points: Place[]
  labels: Label[]
  dropped: number
}

const SPACE = 0.4 // paper mm kept free around a text
const POINT = { LS: 'TS', SC: 'SC', CS: 'CS', SL: 'ST', LC: 'TC', CL: 'CT', SS: 'SS', CC: 'CC' } as Record<string, string>
const first = (kind: LineElement['kind']) => kind[0]!

/** Do two turned rectangles meet? By separating axes. */
export function overlap(a: Label, b: Label, space = 0): boolean {
  for (const t of [a.turn, a.turn + Math.PI / 2, b.turn, b.turn + Math.PI / 2]) {
    const [x, y] = [Math.cos(t), Math.sin(t)]
    const reach = (l: Label) =>
      ((l.width + space) * Math.abs(Math.cos(l.turn) * x + Math.sin(l.turn) * y) +
        (l.height + space) * Math.abs(-Math.sin(l.turn) * x + Math.cos(l.turn) * y)) /
      2
    if (Math.abs((a.e - b.e) * x + (a.n - b.n) * y) >= reach(a) + reach(b)) return false
  }
  return true
}

/**
 * What is drawn along a line. `place` gives a place on the line by its station; `wide` the width of a text over its height.
 * `handles` with their names are kept clear.
 * A text that finds no free place at either side, nearer or farther, is dropped and counted; tangent points go first, chainages last.
 */
export function annotate(
  elements: readonly LineElement[],
  limits: readonly [number, number],
  style: AnnotationStyle,
  place: (s: number) => Place | null,
  station: (s: number) => string,
  wide: (text: string) => number,
  equations: Equations = [],
  handles: readonly { e: number; n: number }[] = [],
): Annotation {
  const mm = style.scale / 1000 // m on the ground
  const along = (step: number) => ((limits[1] - limits[0]) / step > 5000 ? [] : roundStations(limits, step, equations))
  const at = (s: number) => place(s)!
  const there = (s: number) => place(s) !== null
  const labels: Label[] = []
  // a handle and its name below and right of it, as large as they are beside texts that can just be read
  const high = style.size * mm
  const none = { text: '', kind: 'point', turn: 0, at: { e: 0, n: 0, azimuth: 0 } } as const
  const kept = handles.map((h): Label => ({ ...none, e: h.e + 1.5 * high, n: h.n - 0.5 * high, width: 5.5 * high, height: 2.6 * high }))
  let dropped = 0
  function put(text: string, kind: Label['kind'], p: Place, square: boolean, sides: number[]) {
    const height = style.size * mm
    const width = wide(text) * height
    // read from below or from the right
    let turn = square ? -p.azimuth : Math.PI / 2 - p.azimuth
    turn = Math.atan2(Math.sin(turn), Math.cos(turn))
    if (turn > Math.PI / 2 || turn <= -Math.PI / 2) turn += turn > 0 ? -Math.PI : Math.PI
    for (const far of [0, 1, 2]) {
      for (const side of sides) {
        const off = side * (style.away * mm + (square ? width : height) / 2 + far * height * 1.4)
        const label = { text, kind, e: p.e + off * Math.cos(p.azimuth), n: p.n - off * Math.sin(p.azimuth), turn, width, height, at: p }
        if (![...kept, ...labels].some((l) => overlap(l, label, SPACE * mm))) return void labels.push(label)
      }
    }
    dropped++
  }
  const joints = elements
    .slice(1)
    .map((e, i) => ({ s: e.start, name: POINT[first(elements[i]!.kind) + first(e.kind)] ?? '' }))
    .filter((j) => there(j.s))
  if (style.points) for (const j of joints) put(`${j.name} ${station(j.s)}`, 'point', at(j.s), true, [1, -1])
  if (style.elements) {
    for (const e of elements) {
      const middle = (e.start + e.end) / 2
      if (!there(middle)) continue
      const r = e.radius_end ?? e.radius_start
      const text =
        e.kind === 'Line'
          ? `L ${two(e.length)}`
          : e.kind === 'Curve'
            ? `R ${two(Math.abs(r!))}`
            : e.parameter
              ? `A ${two(e.parameter)}`
              : `transition ${two(e.length)}`
      if (wide(text) * style.size * mm < e.end - e.start) put(text, 'element', at(middle), false, [-1, 1])
    }
  }
  // where chainages stand closer than a text is high, those between are left out; they are counted like all that found no place
  let step = style.text
  while (step < 1.3 * style.size * mm) step *= 2
  dropped += along(style.text).length - along(step).length
  for (const s of along(step).filter(there)) put(station(s), 'chainage', at(s), true, [1, -1])
  return {
    ticks: style.tick < 0.4 * mm ? [] : along(style.tick).filter(there).map(at),
    points: style.points ? joints.map((j) => at(j.s)) : [],
    labels,
    dropped,
  }
}

/** A smaller text cannot be read; a larger one only hides what is drawn. */
export const READ_PX = [9, 15] as const

/**
 * The style as it is drawn on screen: as on paper while that can be read, else with the scale at which it can, unless its true size is
 * asked for. The scale goes in steps, so that texts stay where they are while a view is zoomed a little.
 */
export function onScreen(style: AnnotationStyle, view: ViewTransform, trueSize = false): AnnotationStyle {
  const px = (style.size * style.scale * view.scale) / 1000
  if (trueSize || !(px > 0)) return style
  const wanted = Math.min(Math.max(px, READ_PX[0]), READ_PX[1])
  if (wanted === px) return style
  const scale = (style.scale * wanted) / px
  return { ...style, scale: 1.08 ** Math.round(Math.log(scale) / Math.log(1.08)) }
}
/** Height of a style's texts in a view, px. */
export const textPx = (style: AnnotationStyle, view: ViewTransform) => (style.size * style.scale * view.scale) / 1000

/** Boxes round the texts, px. */
export function annotationBoxes(a: Annotation, view: ViewTransform): Box[] {
  return a.labels.map((l) => {
    const [x, y] = toScreen(view, l.e, l.n)
    const [c, s] = [Math.abs(Math.cos(l.turn)), Math.abs(Math.sin(l.turn))]
    return boxAt(x, y, (l.width * c + l.height * s) * view.scale, (l.width * s + l.height * c) * view.scale)
  })
}

export function drawAnnotation(pen: Pen, a: Annotation, view: ViewTransform, style: AnnotationStyle): void {
  const mm = (style.scale / 1000) * view.scale // px
  const seen = (x: number, y: number) => x > -200 && y > -200 && x < view.width + 200 && y < view.height + 200
  pen.strokeStyle = pen.fillStyle = '#0e5a68'
  pen.lineWidth = 1.1
  pen.beginPath()
  for (const t of a.ticks) {
    const [x, y] = toScreen(view, t.e, t.n)
    if (!seen(x, y)) continue
    const [dx, dy] = [Math.cos(t.azimuth) * mm, Math.sin(t.azimuth) * mm]
    pen.moveTo(x - dx, y - dy)
    pen.lineTo(x + dx, y + dy)
  }
  pen.stroke()
  for (const p of a.points) {
    const [x, y] = toScreen(view, p.e, p.n)
    if (!seen(x, y)) continue
    pen.beginPath()
    pen.arc(x, y, Math.max(0.7 * mm, 2), 0, 2 * Math.PI)
    pen.fillStyle = '#fff'
    pen.fill()
    pen.stroke()
  }
  pen.textAlign = 'center'
  pen.textBaseline = 'middle'
  for (const l of a.labels) {
    const [x, y] = toScreen(view, l.e, l.n)
    if (!seen(x, y)) continue
    const size = l.height * view.scale
    pen.font = `${l.kind === 'chainage' ? 550 : 450} ${(size * 1.25).toFixed(1)}px 'IBM Plex Sans Variable', sans-serif`
    pen.save()
    pen.translate(x, y)
    pen.rotate(-l.turn)
    pen.strokeStyle = '#fbf8f1'
    pen.lineWidth = 3
    pen.strokeText(l.text, 0, 0)
    pen.fillStyle = l.kind === 'element' ? '#1d2a33' : '#0e5a68'
    pen.fillText(l.text, 0, 0)
    pen.restore()
    pen.strokeStyle = '#0e5a68'
    pen.lineWidth = 1.1
  }
}
