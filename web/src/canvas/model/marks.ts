/** Marks on a carriageway: a broken line in its middle and whole ones along its edges. For the eye; no standard is kept by them. */

const WIDTH = 0.15 // m; with the next three from memory, as on two-lane roads of many places
const INSIDE = 0.3 // m from the pavement's edge
const DASH = 4 // m
const GAP = 8 // m
const LIFT = 0.02 // m over the pavement

export interface Ribbon {
  points: number[]
  faces: number[]
}
export type Spot = readonly [number, number, number]

/** The part of a row of points (n * 3) moved towards another row by so many m, where the two are farther apart than that. */
export function movedTowards(from: Float32Array, to: Float32Array, by: number): Spot[] {
  const out: Spot[] = []
  for (let i = 0; i < from.length; i += 3) {
    const [dx, dy, dz] = [to[i]! - from[i]!, to[i + 1]! - from[i + 1]!, to[i + 2]! - from[i + 2]!]
    const share = Math.min(by / Math.max(Math.hypot(dx, dy), 1e-6), 0.5)
    out.push([from[i]! + dx * share, from[i + 1]! + dy * share, from[i + 2]! + dz * share])
  }
  return out
}

/** A line of some width along spots, whole or in dashes; distances count along it. */
export function ribbon(spots: readonly Spot[], broken: boolean, width = WIDTH): Ribbon {
  const out: Ribbon = { points: [], faces: [] }
  let along = 0
  for (let i = 0; i + 1 < spots.length; i++) {
    const [a, b] = [spots[i]!, spots[i + 1]!]
    const length = Math.hypot(b[0] - a[0], b[1] - a[1])
    if (length < 1e-6) continue
    const [u, v] = [(b[0] - a[0]) / length, (b[1] - a[1]) / length]
    for (let s = 0; s < length;) {
      const phase = (along + s) % (DASH + GAP)
      const to = broken ? Math.min(length, s + (phase < DASH ? DASH - phase : DASH + GAP - phase)) : length
      if (!broken || phase < DASH - 1e-9) quad(out, a, b, s / length, to / length, u, v, width)
      s = Math.max(to, s + 1e-6)
    }
    along += length
  }
  return out
}

function quad(out: Ribbon, a: Spot, b: Spot, from: number, to: number, u: number, v: number, width: number): void {
  const first = out.points.length / 3
  for (const t of [from, to])
    for (const side of [-0.5, 0.5])
      out.points.push(
        a[0] + (b[0] - a[0]) * t - v * side * width,
        a[1] + (b[1] - a[1]) * t + u * side * width,
        a[2] + (b[2] - a[2]) * t + LIFT,
      )
  out.faces.push(first, first + 2, first + 1, first + 1, first + 2, first + 3)
}

/** Marks of a road from pieces of its centre line and the pavement edges beside them. */
export function marksOf(strips: readonly { centre: Float32Array; edge: Float32Array; side: 'left' | 'right' }[]): Ribbon[] {
  return strips.flatMap(({ centre, edge, side }) => {
    const middle = Array.from({ length: centre.length / 3 }, (_, i) => [centre[3 * i]!, centre[3 * i + 1]!, centre[3 * i + 2]!] as const)
    const own = ribbon(movedTowards(edge, centre, INSIDE), false)
    return side === 'left' ? [ribbon(middle, true), own] : [own]
  })
}
