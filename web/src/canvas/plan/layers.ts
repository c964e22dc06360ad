/** What the plan draws over the terrain: contours, triangles, breaklines, the road. Each layer draws with a pen through a view. */
import type { LightRoad, LineRole } from '@/api/types'
import { boxAround, boxAt, touch, type Box } from '@/lib/labels'
import { roundStations, type Equations } from '@/lib/chainage'
import { units } from '@/lib/units'
import type { Pen } from '../shared/pen'
import { toScreen, type ViewTransform } from '../shared/viewTransform'
import type { TerrainMesh } from './terrain'

export interface ContourSet {
  origin: [number, number]
  xy: Float32Array
  starts: Uint32Array
  levels: Float32Array
  interval: number
}

/** `every`: each so-many-th contour is a major one. */
export interface ContourStyle {
  every: number
  minor: string
  major: string
}

const COLOURS = { triangle: '#b9c3c6', breakline: '#7b5a3c', design: '#0e5a68', faded: '#5e6b73', ochre: '#b8741a', ink: '#1d2a33',
  land: '#8a4f7d', landWash: '#8a4f7d14' } // prettier-ignore

export const isMajor = (level: number, interval: number, every: number) => Math.abs(Math.round(level / interval)) % every === 0

export function drawContours(pen: Pen, c: ContourSet, view: ViewTransform, style: ContourStyle): void {
  const [ox, oy] = toScreen(view, c.origin[0], c.origin[1])
  const minorToo = view.scale * c.interval > 0.12
  for (const major of minorToo ? [false, true] : [true]) {
    pen.strokeStyle = major ? style.major : style.minor
    pen.lineWidth = major ? 0.9 : 0.6
    pen.beginPath()
    for (let i = 0; i < c.levels.length; i++) {
      if (isMajor(c.levels[i]!, c.interval, style.every) !== major) continue
      for (let k = c.starts[i]!; k < c.starts[i + 1]!; k++) {
        const x = ox + c.xy[2 * k]! * view.scale
        const y = oy - c.xy[2 * k + 1]! * view.scale
        if (k === c.starts[i]) pen.moveTo(x, y)
        else pen.lineTo(x, y)
      }
    }
    pen.stroke()
  }
}

/** Levels in the contours, 90 px apart, clear of what is `taken`. */
export function drawContourLabels(pen: Pen, c: ContourSet, view: ViewTransform, style: ContourStyle, taken: Box[] = []): void {
  const [ox, oy] = toScreen(view, c.origin[0], c.origin[1])
  const own: [number, number][] = []
  pen.font = "500 10px 'IBM Plex Sans Variable', sans-serif"
  pen.textAlign = 'center'
  pen.textBaseline = 'middle'
  for (let i = 0; i < c.levels.length; i++) {
    const count = c.starts[i + 1]! - c.starts[i]!
    if (!isMajor(c.levels[i]!, c.interval, style.every) || count < 12) continue
    const k = c.starts[i]! + Math.floor(count / 2)
    const x = ox + c.xy[2 * k]! * view.scale
    const y = oy - c.xy[2 * k + 1]! * view.scale
    if (x < 20 || y < 12 || x > view.width - 20 || y > view.height - 12) continue
    if (own.some(([a, b]) => Math.hypot(a - x, b - y) < 90)) continue
    const box = boxAround(x, y, 10)
    if (taken.some((t) => touch(t, box))) continue
    own.push([x, y])
    taken.push(box)
    let angle = Math.atan2(-(c.xy[2 * k + 3]! - c.xy[2 * k - 1]!), c.xy[2 * k + 2]! - c.xy[2 * k - 2]!)
    if (angle > Math.PI / 2) angle -= Math.PI
    if (angle < -Math.PI / 2) angle += Math.PI
    pen.save()
    pen.translate(x, y)
    pen.rotate(angle)
    pen.strokeStyle = '#fbf8f1'
    pen.lineWidth = 3
    const text = (c.levels[i]! / units.value.metre).toFixed(c.interval < units.value.metre * 0.999 ? 1 : 0)
    pen.strokeText(text, 0, 0)
    pen.fillStyle = '#77603f'
    pen.fillText(text, 0, 0)
    pen.restore()
  }
}

export function drawTriangles(pen: Pen, mesh: TerrainMesh, view: ViewTransform): void {
  const [ox, oy] = toScreen(view, mesh.origin[0], mesh.origin[1])
  const { points: p, triangles: t } = mesh
  const s = view.scale
  pen.strokeStyle = COLOURS.triangle
  pen.lineWidth = 0.6
  pen.beginPath()
  for (let i = 0; i < t.length; i += 3) {
    const a = t[i]! * 3,
      b = t[i + 1]! * 3,
      c = t[i + 2]! * 3
    const ax = ox + p[a]! * s,
      ay = oy - p[a + 1]! * s
    const bx = ox + p[b]! * s,
      by = oy - p[b + 1]! * s
    const cx = ox + p[c]! * s,
      cy = oy - p[c + 1]! * s
    if (Math.max(ax, bx, cx) < 0 || Math.min(ax, bx, cx) > view.width || Math.max(ay, by, cy) < 0 || Math.min(ay, by, cy) > view.height)
      continue
    pen.moveTo(ax, ay)
    pen.lineTo(bx, by)
    pen.lineTo(cx, cy)
    pen.lineTo(ax, ay)
  }
  pen.stroke()
}

export function drawBreaklines(pen: Pen, mesh: TerrainMesh, view: ViewTransform): void {
  const [ox, oy] = toScreen(view, mesh.origin[0], mesh.origin[1])
  pen.strokeStyle = COLOURS.breakline
  pen.lineWidth = 1
  pen.beginPath()
  for (let i = 0; i < mesh.breaklines.length; i += 2) {
    const a = mesh.breaklines[i]! * 3,
      b = mesh.breaklines[i + 1]! * 3
    pen.moveTo(ox + mesh.points[a]! * view.scale, oy - mesh.points[a + 1]! * view.scale)
    pen.lineTo(ox + mesh.points[b]! * view.scale, oy - mesh.points[b + 1]! * view.scale)
  }
  pen.stroke()
}

/** The land that a road takes: its line, and a light wash within. */
export function drawLand(pen: Pen, rings: readonly (readonly (readonly [number, number])[])[], view: ViewTransform): void {
  pen.beginPath()
  for (const ring of rings) {
    path(pen, view, ring)
    pen.closePath()
  }
  pen.fillStyle = COLOURS.landWash
  pen.fill('evenodd')
  pen.strokeStyle = COLOURS.land
  pen.lineWidth = 1.2
  pen.setLineDash([9, 3, 2, 3])
  pen.stroke()
  pen.setLineDash([])
}

/** A line of a role as far as it runs through; `first` is the section it begins at. */
interface EdgeLine {
  side: string
  role: string
  first: number
  cm: readonly number[]
}

export interface RoadDrawing {
  /** station, e, n, azimuth, curvature */
  points: readonly (readonly number[])[]
  /** lines as whole centimetres east and north of an origin */
  edges: { origin: readonly [number, number]; lines: readonly EdgeLine[] }
  /** how each role is drawn, in order; one that is not among them is drawn finely, from near */
  roles: readonly Pick<LineRole, 'name' | 'screen' | 'below' | 'outline'>[]
  stale: boolean
}

/** Points in a row; `at`: where in each of them e stands, n after it; what else it holds is left. */
const path = (pen: Pen, view: ViewTransform, points: readonly (readonly (number | null)[])[], at: 0 | 1 = 0) =>
  points.forEach((p, i) => {
    const [x, y] = toScreen(view, p[at]!, p[at + 1]!)
    if (i === 0) pen.moveTo(x, y)
    else pen.lineTo(x, y)
  })

/** Points a to b of an edge line forward, or backward to close a band. */
function edgePath(
  pen: Pen,
  view: ViewTransform,
  origin: readonly [number, number],
  cm: readonly number[],
  backward = false,
  a = 0,
  b = cm.length / 2,
): void {
  const [ox, oy] = toScreen(view, origin[0], origin[1])
  const s = view.scale / 100
  for (let k = 0; k < b - a; k++) {
    const i = 2 * (backward ? b - 1 - k : a + k)
    const x = ox + cm[i]! * s,
      y = oy - cm[i + 1]! * s
    if (k === 0 && !backward) pen.moveTo(x, y)
    else pen.lineTo(x, y)
  }
}

/** Whether the view is near enough to show the edge lines between toe and pavement. */
export const showsInnerEdges = (scale: number) => scale > 0.25

/** The band between a left and a right piece, over the sections that both run through. */
function fillBetween(pen: Pen, view: ViewTransform, origin: readonly [number, number], left: EdgeLine, right: EdgeLine): void {
  const a = Math.max(left.first, right.first)
  const b = Math.min(left.first + left.cm.length / 2, right.first + right.cm.length / 2)
  if (b - a < 2) return
  pen.beginPath()
  edgePath(pen, view, origin, left.cm, false, a - left.first, b - left.first)
  edgePath(pen, view, origin, right.cm, true, a - right.first, b - right.first)
  pen.closePath()
  pen.fill()
}

export function drawRoad(pen: Pen, road: RoadDrawing, view: ViewTransform): void {
  const { origin, lines } = road.edges
  for (const role of road.roles) {
    if (!role.screen?.fill) continue
    pen.fillStyle = role.screen.fill
    const of = (side: string) => lines.filter((e) => e.role === role.name && e.side === side)
    for (const left of of('left')) for (const right of of('right')) fillBetween(pen, view, origin, left, right)
  }
  const near = showsInnerEdges(view.scale)
  const known = new Set(road.roles.map((r) => r.name))
  const styles = [{ name: '', screen: { colour: '#6f9aa2', width: 0.7, dash: [] as number[] }, outline: false }, ...road.roles]
  for (const { name, screen, outline } of styles) {
    if (!screen || !(outline || near)) continue
    pen.strokeStyle = screen.colour
    pen.lineWidth = screen.width
    pen.setLineDash(screen.dash)
    pen.beginPath()
    for (const e of lines) if (e.role === name || (!name && !known.has(e.role))) edgePath(pen, view, origin, e.cm)
    pen.stroke()
    pen.setLineDash([])
  }
  pen.strokeStyle = road.stale ? '#8b979d' : COLOURS.design
  pen.lineWidth = 2
  pen.beginPath()
  path(pen, view, road.points, 1)
  pen.stroke()
}

const OTHER = '#5b7480' // a road that is not the active one

/** The lines of the other roads, thin, each with its name where it is long enough to read it. */
export function drawOtherRoads(pen: Pen, roads: readonly LightRoad[], view: ViewTransform): void {
  pen.lineWidth = 1.4
  for (const road of roads) {
    if (road.points.length < 2) continue
    pen.strokeStyle = OTHER
    pen.beginPath()
    path(pen, view, road.points)
    pen.stroke()
  }
}
/** Names of other roads beside their lines, each where nothing else is written; a road too short on screen, or without room, has none. */
export function drawRoadNames(pen: Pen, roads: readonly LightRoad[], view: ViewTransform, taken: Box[]): void {
  pen.font = "500 11px 'IBM Plex Sans Variable', sans-serif"
  pen.textAlign = 'center'
  pen.textBaseline = 'middle'
  for (const road of roads) {
    const last = road.points.length - 1
    if (last < 1) continue
    const at = (i: number) => {
      const [e, n] = road.points[i]!
      return toScreen(view, e, n)
    }
    const [from, to] = [at(0), at(last)]
    if (Math.hypot(to[0] - from[0], to[1] - from[1]) < 60) continue
    const wide = pen.measureText(road.name).width + 2
    const places = [0.5, 0.35, 0.65, 0.2, 0.8, 0.05, 0.95].flatMap((share) => {
      const [x, y] = at(Math.round(share * last))
      return [-7, 11].flatMap((up) => [1, -1].map((side) => [x + side * (wide / 2 + 7), y + up] as const))
    })
    const there = places.find(([x, y]) => {
      const inside = x > wide / 2 && y > 8 && x < view.width - wide / 2 && y < view.height - 8
      return inside && !taken.some((t) => touch(t, boxAt(x, y, wide, 13)))
    })
    if (!there) continue
    taken.push(boxAt(...there, wide, 13))
    pen.lineWidth = 3
    pen.strokeStyle = '#ffffffcc'
    pen.strokeText(road.name, ...there)
    pen.fillStyle = OTHER
    pen.fillText(road.name, ...there)
  }
}

/** Roads that lie within some px of a place on the screen, with how far. */
export function roadsAt(
  roads: readonly LightRoad[],
  view: ViewTransform,
  x: number,
  y: number,
  within = 6,
): { road: LightRoad; away: number }[] {
  return roads
    .map((road) => ({
      road,
      away: awayFrom(
        road.points.map(([e, n]) => toScreen(view, e, n)),
        x,
        y,
      ),
    }))
    .filter((r) => r.away < within)
}
/** How far a place is from a row of straights. */
export function awayFrom(points: readonly (readonly [number, number])[], x: number, y: number): number {
  let best = Infinity
  for (let i = 0; i + 1 < points.length; i++) {
    const [ax, ay] = points[i]!,
      [bx, by] = points[i + 1]!
    const [dx, dy] = [bx - ax, by - ay]
    const t = Math.min(Math.max(((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1), 0), 1)
    best = Math.min(best, Math.hypot(x - ax - t * dx, y - ay - t * dy))
  }
  return best
}

/** Interval of chainage marks for a scale: ticks at least 40 px apart. */
export function tickInterval(scale: number): number {
  const { metre } = units.value
  return metre * ([10, 20, 50, 100, 200, 500, 1000, 2000, 5000].find((i) => i * metre * scale >= 46) ?? 20_000)
}

/** A round chainage on screen: its tick, and its text where it has room. */
export interface ChainageMark {
  x: number
  y: number
  /** across the road to its left, px of 1 */
  across: [number, number]
  text: string
  at: [number, number] | null
}
/** Chainages left of the road, else right of it, clear of what is `taken`; they take their places. */
export function placeChainages(
  pen: Pen,
  road: RoadDrawing,
  view: ViewTransform,
  equations: Equations,
  text: (s: number) => string,
  at: (s: number) => { e: number; n: number; azimuth: number } | null,
  taken: Box[],
): ChainageMark[] {
  const step = tickInterval(view.scale)
  const first = road.points[0]?.[0] ?? 0
  const last = road.points.at(-1)?.[0] ?? 0
  pen.font = CHAINAGE_FONT
  const out: ChainageMark[] = []
  for (const s of roundStations([first, last], step, equations)) {
    const place = at(s)
    if (!place) continue
    const [x, y] = toScreen(view, place.e, place.n)
    if (x < -40 || y < -40 || x > view.width + 40 || y > view.height + 40) continue
    const across: [number, number] = [-Math.cos(place.azimuth), -Math.sin(place.azimuth)]
    const label = text(s)
    const wide = pen.measureText(label).width + 2
    const places = [1, -1].map((side) => [x + side * across[0] * 20, y + side * across[1] * 16] as [number, number])
    const free = places.find(([px, py]) => !taken.some((t) => touch(t, boxAt(px, py, wide, 13)))) ?? null
    if (free) taken.push(boxAt(...free, wide, 13))
    out.push({ x, y, across, text: label, at: free })
  }
  return out
}
const CHAINAGE_FONT = "550 11px 'IBM Plex Sans Variable', sans-serif"

export function drawChainages(pen: Pen, marks: readonly ChainageMark[]): void {
  pen.font = CHAINAGE_FONT
  pen.textBaseline = 'middle'
  pen.textAlign = 'center'
  for (const { x, y, across, text, at } of marks) {
    pen.strokeStyle = COLOURS.design
    pen.lineWidth = 1.2
    pen.beginPath()
    pen.moveTo(x - across[0] * 5, y - across[1] * 5)
    pen.lineTo(x + across[0] * 5, y + across[1] * 5)
    pen.stroke()
    if (!at) continue
    pen.strokeStyle = '#fbf8f1'
    pen.lineWidth = 3
    pen.strokeText(text, ...at)
    pen.fillStyle = COLOURS.design
    pen.fillText(text, ...at)
  }
}
