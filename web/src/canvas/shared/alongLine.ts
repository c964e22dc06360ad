/** Places along a sampled line: rows of station, e, n, azimuth, curvature. Reading only; drawing needs no more than the sampling's 1 mm. */
export type LinePoints = readonly (readonly [number, number, number, number, number])[]

/** Index of the row at or before a station; the first for stations before it, the last but one after the end. */
function rowBefore(points: readonly (readonly [number, ...unknown[]])[], s: number): number {
  let low = 0
  let high = points.length - 1
  while (high - low > 1) {
    const mid = (low + high) >> 1
    if (points[mid]![0] <= s) low = mid
    else high = mid
  }
  return low
}

export function placeAt(points: LinePoints, s: number): { e: number; n: number; azimuth: number } | null {
  if (points.length < 2 || s < points[0]![0] - 1e-6 || s > points.at(-1)![0] + 1e-6) return null
  const i = rowBefore(points, s)
  const a = points[i]!
  const b = points[i + 1]!
  const t = b[0] > a[0] ? (s - a[0]) / (b[0] - a[0]) : 0
  let turn = b[3] - a[3]
  if (turn > Math.PI) turn -= 2 * Math.PI
  if (turn < -Math.PI) turn += 2 * Math.PI
  return { e: a[1] + t * (b[1] - a[1]), n: a[2] + t * (b[2] - a[2]), azimuth: a[3] + t * turn }
}

/** Nearest station of a place, and its offset (+ right). */
export function stationOf(points: LinePoints, e: number, n: number): { station: number; offset: number } | null {
  if (points.length < 2) return null
  let best = Infinity
  let found = { station: 0, offset: 0 }
  for (let i = 0; i + 1 < points.length; i++) {
    const a = points[i]!,
      b = points[i + 1]!
    const dx = b[1] - a[1],
      dy = b[2] - a[2]
    const length2 = dx * dx + dy * dy || 1e-12
    const t = Math.min(Math.max(((e - a[1]) * dx + (n - a[2]) * dy) / length2, 0), 1)
    const px = e - a[1] - t * dx,
      py = n - a[2] - t * dy
    const d = px * px + py * py
    if (d < best) {
      best = d
      found = { station: a[0] + t * (b[0] - a[0]), offset: Math.sign(dy * px - dx * py) * Math.sqrt(d) }
    }
  }
  return found
}

/** Level of a polyline of [station, level] at a station; null outside or over a gap. */
export function levelAt(points: readonly (readonly [number, number | null, ...number[]])[], s: number): number | null {
  if (points.length < 2 || s < points[0]![0] - 1e-6 || s > points.at(-1)![0] + 1e-6) return null
  const low = rowBefore(points, s)
  const a = points[low]!,
    b = points[low + 1]!
  if (s === a[0] && a[1] !== null) return a[1] // at the edge of a gap the level is known
  if (s === b[0] && b[1] !== null) return b[1]
  if (a[1] === null || b[1] === null) return null
  return b[0] > a[0] ? a[1] + ((s - a[0]) / (b[0] - a[0])) * (b[1] - a[1]) : a[1]
}

/** The rows of a range of stations, and one beyond either end, so that lines run on to the edge of a view. */
export function rowsWithin<T extends readonly [number, ...unknown[]]>(points: readonly T[], from: number, to: number): readonly T[] {
  if (points.length < 3) return points
  return points.slice(rowBefore(points, from), rowBefore(points, to) + 2)
}
