/** What the pointer catches on received lines while a line is drawn, in world coordinates. */

export type SnapKind = 'vertex' | 'end' | 'tangent' | 'crossing' | 'perpendicular' | 'prolonged' | 'nearest'
export interface Snap {
  kind: SnapKind
  e: number
  n: number
}
/** Polylines as one row of coordinates from an origin, `stride` numbers a vertex, with the first vertex of each. */
export interface SnapLines {
  origin: readonly [number, number]
  vertices: Float32Array | Float64Array
  starts: ArrayLike<number>
  stride: number
  hidden?: (line: number) => boolean
}

interface Segment {
  a: [number, number]
  b: [number, number]
  first: boolean
  last: boolean
  next: [number, number] | null
}
const NAMES: Record<SnapKind, string> = {
  vertex: 'vertex',
  end: 'end of a line',
  tangent: 'touches a bend',
  crossing: 'crossing',
  perpendicular: 'square to a line',
  prolonged: 'prolongs a line',
  nearest: 'on a line',
}
export const snapName = (kind: SnapKind) => NAMES[kind]

/** Segments that come within `reach` of a place. */
export function segmentsNear(lines: SnapLines, e: number, n: number, reach: number): Segment[] {
  const { origin, vertices, starts, stride } = lines
  const [x, y] = [e - origin[0], n - origin[1]]
  const out: Segment[] = []
  for (let k = 0; k + 1 < starts.length; k++) {
    if (lines.hidden?.(k)) continue
    const [from, to] = [starts[k]!, starts[k + 1]! - 1]
    for (let i = from; i < to; i++) {
      const ax = vertices[i * stride]!,
        ay = vertices[i * stride + 1]!,
        bx = vertices[(i + 1) * stride]!,
        by = vertices[(i + 1) * stride + 1]!
      if (Math.min(ax, bx) > x + reach || Math.max(ax, bx) < x - reach || Math.min(ay, by) > y + reach || Math.max(ay, by) < y - reach)
        continue
      const next: [number, number] | null =
        i + 1 < to ? [vertices[(i + 2) * stride]! + origin[0], vertices[(i + 2) * stride + 1]! + origin[1]] : null
      out.push({ a: [ax + origin[0], ay + origin[1]], b: [bx + origin[0], by + origin[1]], first: i === from, last: i + 1 === to, next })
    }
  }
  return out
}

function foot(s: Segment, e: number, n: number): { e: number; n: number; t: number } {
  const dx = s.b[0] - s.a[0],
    dy = s.b[1] - s.a[1]
  const t = ((e - s.a[0]) * dx + (n - s.a[1]) * dy) / (dx * dx + dy * dy || 1)
  return { e: s.a[0] + t * dx, n: s.a[1] + t * dy, t }
}
function crossing(p: Segment, q: Segment): [number, number] | null {
  const [rx, ry, sx, sy] = [p.b[0] - p.a[0], p.b[1] - p.a[1], q.b[0] - q.a[0], q.b[1] - q.a[1]]
  const d = rx * sy - ry * sx
  if (Math.abs(d) < 1e-12) return null
  const [wx, wy] = [q.a[0] - p.a[0], q.a[1] - p.a[1]]
  const [t, u] = [(wx * sy - wy * sx) / d, (wx * ry - wy * rx) / d]
  return t > 1e-9 && t < 1 - 1e-9 && u > 1e-9 && u < 1 - 1e-9 ? [p.a[0] + t * rx, p.a[1] + t * ry] : null
}

const BENDS = Math.PI / 12 // a line that turns by more at a vertex has a corner there, not a bend

/** Whether the straight from a place touches the bend of a line at the end of a segment: its neighbours lie on one side of it. */
function touches(s: Segment, from: { e: number; n: number }): boolean {
  if (!s.next) return false
  const [x, y] = [s.b[0] - from.e, s.b[1] - from.n]
  const side = (p: [number, number]) => x * (p[1] - s.b[1]) - y * (p[0] - s.b[0])
  const turn = Math.atan2(s.next[1] - s.b[1], s.next[0] - s.b[0]) - Math.atan2(s.b[1] - s.a[1], s.b[0] - s.a[0])
  return side(s.a) * side(s.next) > 0 && Math.abs(Math.atan2(Math.sin(turn), Math.cos(turn))) < BENDS
}

/**
 * The best catch within `reach` m: a vertex, an end or a bend that the leg from `from` touches, then a crossing, then the foot square
 * from `from`, then the prolongation of the
 * segment on whose end `from` lies, then the nearest place on a line. `marked` leaves it at vertices, ends and crossings.
 */
export function snapTo(
  lines: SnapLines[],
  e: number,
  n: number,
  reach: number,
  from?: { e: number; n: number } | null,
  marked = false,
): Snap | null {
  const near = lines.flatMap((l) => segmentsNear(l, e, n, reach))
  const offers: { kind: SnapKind; rank: number; e: number; n: number; d: number }[] = []
  const offer = (kind: SnapKind, rank: number, x: number, y: number) => {
    const d = Math.hypot(x - e, y - n)
    if (d <= reach) offers.push({ kind, rank, e: x, n: y, d })
  }
  near.forEach((s, i) => {
    offer(s.first ? 'end' : 'vertex', 0, ...s.a)
    offer(s.last ? 'end' : !marked && from && touches(s, from) ? 'tangent' : 'vertex', 0, ...s.b)
    for (const q of near.slice(i + 1)) {
      const c = crossing(s, q)
      if (c) offer('crossing', 1, ...c)
    }
    if (marked) return
    const square = from && foot(s, from.e, from.n)
    if (square && square.t >= 0 && square.t <= 1) offer('perpendicular', 2, square.e, square.n)
    const on = foot(s, e, n)
    if (on.t >= 0 && on.t <= 1) offer('nearest', 4, on.e, on.n)
  })
  for (const s of from ? lines.flatMap((l) => segmentsNear(l, from.e, from.n, 0.01)) : []) {
    const own = foot(s, from!.e, from!.n)
    if (Math.hypot(own.e - from!.e, own.n - from!.n) < 0.01) offer('prolonged', 3, foot(s, e, n).e, foot(s, e, n).n)
  }
  const best = offers.sort((a, b) => a.rank - b.rank || a.d - b.d)[0]
  return best ? { kind: best.kind, e: best.e, n: best.n } : null
}
