/** World to screen and back for the plan: e, n at the middle of the view, `scale` in pixels per metre. */
export interface ViewTransform {
  e: number
  n: number
  scale: number
  width: number
  height: number
}

export const toScreen = (v: ViewTransform, e: number, n: number): [number, number] => [
  v.width / 2 + (e - v.e) * v.scale,
  v.height / 2 - (n - v.n) * v.scale,
]

export const toWorld = (v: ViewTransform, x: number, y: number): [number, number] => [
  v.e + (x - v.width / 2) / v.scale,
  v.n - (y - v.height / 2) / v.scale,
]

/** Zoom by a factor with the place under (x, y) held. */
export function zoomAt(v: ViewTransform, x: number, y: number, factor: number): ViewTransform {
  const scale = Math.min(Math.max(v.scale * factor, 0.005), 400)
  const [e, n] = toWorld(v, x, y)
  return { ...v, scale, e: e - (x - v.width / 2) / scale, n: n + (y - v.height / 2) / scale }
}

export const panBy = (v: ViewTransform, dx: number, dy: number): ViewTransform => ({ ...v, e: v.e - dx / v.scale, n: v.n + dy / v.scale })

/** The view that shows an extent (E, N, E, N) with a margin. */
export function fitExtent(v: ViewTransform, extent: [number, number, number, number], margin = 0.06): ViewTransform {
  const [e0, n0, e1, n1] = extent
  const scale = Math.min(v.width / Math.max(e1 - e0, 1), v.height / Math.max(n1 - n0, 1)) * (1 - 2 * margin)
  return { ...v, e: (e0 + e1) / 2, n: (n0 + n1) / 2, scale }
}

/** A round length in metres for a scale bar of at most `most` pixels. */
export function barLength(scale: number, most: number): number {
  const room = most / scale
  const power = 10 ** Math.floor(Math.log10(room))
  return [5, 2, 1].map((m) => m * power).find((l) => l <= room) ?? power
}
