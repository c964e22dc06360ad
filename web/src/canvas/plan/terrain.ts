/** Terrain painted pixel by pixel: colours by height, shaded by the light from the north-west. */
import type { ViewTransform } from '../shared/viewTransform'

export interface TerrainMesh {
  /** E, N of the local origin; points are relative to it */
  origin: [number, number]
  points: Float32Array
  triangles: Uint32Array
  breaklines: Uint32Array
  extent: [number, number, number, number]
  levels: [number, number]
  /** brightness per point, 0 to 1 */
  shade: Float32Array
}

export type TerrainColours = 'heights' | 'bands' | 'slopes' | 'shade'
/** Slopes in m/m up to which a band goes. */
export const SLOPE_BANDS = [
  { to: 0.02, colour: [238, 241, 236], label: 'below 2 %' },
  { to: 0.05, colour: [214, 226, 214], label: '2 to 5 %' },
  { to: 0.1, colour: [240, 226, 180], label: '5 to 10 %' },
  { to: 0.2, colour: [228, 190, 128], label: '10 to 20 %' },
  { to: 0.4, colour: [204, 140, 92], label: '20 to 40 %' },
  { to: Infinity, colour: [160, 84, 72], label: 'above 40 %' },
]
/** Levels this many spans outside the limits are painted as what they are: doubtful. */
const BEYOND = 0.5
const DOUBTFUL = [168, 50, 42] as const
const PLAIN = [240, 236, 224] as const
const RAMP = [
  [226, 233, 211],
  [236, 238, 220],
  [246, 241, 224],
  [243, 230, 205],
  [233, 214, 182],
  [220, 195, 158],
] as const
const BANDS = [
  [201, 219, 196],
  [226, 233, 205],
  [247, 240, 214],
  [238, 214, 170],
  [214, 178, 132],
  [176, 138, 108],
  [226, 222, 218],
] as const

export function makeMesh(
  origin: [number, number],
  points: Float32Array,
  triangles: Uint32Array,
  breaklines: Uint32Array,
  extent: [number, number, number, number],
  levels: [number, number],
): TerrainMesh {
  return { origin, points, triangles, breaklines, extent, levels, shade: shadePoints(points, triangles) }
}

/** Mean of the normals around each point against a light from the north-west, levels three times too steep. */
export function shadePoints(points: Float32Array, triangles: Uint32Array): Float32Array {
  const count = points.length / 3
  const nx = new Float32Array(count)
  const ny = new Float32Array(count)
  const nz = new Float32Array(count)
  const STEEP = 3
  for (let t = 0; t < triangles.length; t += 3) {
    const a = triangles[t]! * 3,
      b = triangles[t + 1]! * 3,
      c = triangles[t + 2]! * 3
    const ux = points[b]! - points[a]!,
      uy = points[b + 1]! - points[a + 1]!,
      uz = STEEP * (points[b + 2]! - points[a + 2]!)
    const vx = points[c]! - points[a]!,
      vy = points[c + 1]! - points[a + 1]!,
      vz = STEEP * (points[c + 2]! - points[a + 2]!)
    const x = uy * vz - uz * vy,
      y = uz * vx - ux * vz,
      z = ux * vy - uy * vx
    for (const i of [a / 3, b / 3, c / 3]) {
      nx[i]! += x
      ny[i]! += y
      nz[i]! += z
    }
  }
  const shade = new Float32Array(count)
  const L = Math.hypot(-1, 1, 1.6)
  for (let i = 0; i < count; i++) {
    const n = Math.hypot(nx[i]!, ny[i]!, nz[i]!) || 1
    shade[i] = Math.max(0, (-nx[i]! + ny[i]! + 1.6 * nz[i]!) / (n * L))
  }
  return shade
}

const MOST_BANDS = 14 // more cannot be told apart; then every second, third, … limit counts

/** Limits of the height bands (m) between two levels: multiples of `height` or, where they are too many, of a multiple of it. */
export function bandLimits([low, high]: readonly [number, number], height: number): number[] {
  const step = height * Math.max(1, Math.ceil((high - low) / height / MOST_BANDS))
  const first = Math.floor(low / step)
  return Array.from({ length: Math.max(Math.ceil(high / step) - first, 1) + 1 }, (_, i) => (first + i) * step)
}

/** The colour of band `i` of `count`: neighbours differ enough to be told apart. */
export function bandColour(i: number, count: number): [number, number, number] {
  const h = count > 1 ? (Math.min(Math.max(i, 0), count - 1) / (count - 1)) * (BANDS.length - 1) : 0
  const k = Math.min(Math.floor(h), BANDS.length - 2)
  return [0, 1, 2].map((c) => Math.round(BANDS[k]![c]! + (BANDS[k + 1]![c]! - BANDS[k]![c]!) * (h - k))) as [number, number, number]
}

/** RGBA of the terrain as the view shows it; transparent where there is none. Returns how many pixels were painted. */
export function paintTerrain(
  mesh: TerrainMesh,
  view: ViewTransform,
  pixels: Uint8ClampedArray,
  width: number,
  height: number,
  colours: TerrainColours = 'heights',
  bandHeight = 5,
): number {
  const out = new Uint32Array(pixels.buffer, pixels.byteOffset, width * height)
  const scale = (view.scale * width) / view.width
  const ox = width / 2 + (mesh.origin[0] - view.e) * scale
  const oy = height / 2 - (mesh.origin[1] - view.n) * scale
  const [low, high] = mesh.levels
  const span = Math.max(high - low, 0.01)
  const { points: p, triangles: tri, shade } = mesh
  const steps = RAMP.length - 1
  const limits = colours === 'bands' ? bandLimits(mesh.levels, bandHeight) : []
  const bandStep = limits.length > 1 ? limits[1]! - limits[0]! : 1
  const bands = limits.slice(1).map((_, i) => bandColour(i, limits.length - 1))
  let painted = 0
  for (let t = 0; t < tri.length; t += 3) {
    const ia = tri[t]!,
      ib = tri[t + 1]!,
      ic = tri[t + 2]!
    const ax = ox + p[ia * 3]! * scale,
      ay = oy - p[ia * 3 + 1]! * scale
    const bx = ox + p[ib * 3]! * scale,
      by = oy - p[ib * 3 + 1]! * scale
    const cx = ox + p[ic * 3]! * scale,
      cy = oy - p[ic * 3 + 1]! * scale
    const x0 = Math.max(Math.floor(Math.min(ax, bx, cx)), 0),
      x1 = Math.min(Math.ceil(Math.max(ax, bx, cx)), width - 1)
    const y0 = Math.max(Math.floor(Math.min(ay, by, cy)), 0),
      y1 = Math.min(Math.ceil(Math.max(ay, by, cy)), height - 1)
    if (x0 > x1 || y0 > y1) continue
    const det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
    if (det === 0) continue
    const za = p[ia * 3 + 2]!,
      zb = p[ib * 3 + 2]! - za,
      zc = p[ic * 3 + 2]! - za
    let flat: readonly number[] | null = colours === 'shade' ? PLAIN : null
    if (colours === 'slopes') {
      const rise = Math.hypot(zb * (cy - ay) - zc * (by - ay), zc * (bx - ax) - zb * (cx - ax)) / Math.abs(det)
      flat = SLOPE_BANDS.find((b) => rise * scale <= b.to)!.colour
    }
    const sa = shade[ia]!,
      sb = shade[ib]! - sa,
      sc = shade[ic]! - sa
    for (let y = y0; y <= y1; y++) {
      const py = y + 0.5 - ay
      for (let x = x0; x <= x1; x++) {
        const px = x + 0.5 - ax
        const u = (px * (cy - ay) - (cx - ax) * py) / det
        const v = ((bx - ax) * py - px * (by - ay)) / det
        if (u < -1e-4 || v < -1e-4 || u + v > 1.0001) continue
        const share = (za + u * zb + v * zc - low) / span
        const h = Math.min(Math.max(share, 0), 1) * steps
        const k = Math.min(Math.floor(h), steps - 1)
        const f = h - k
        const light = 0.68 + 0.42 * (sa + u * sb + v * sc)
        const outside = share < -BEYOND || share > 1 + BEYOND ? DOUBTFUL : null
        const band = bands.length
          ? bands[Math.min(Math.max(Math.floor((low + share * span - limits[0]!) / bandStep), 0), bands.length - 1)]!
          : null
        const even = flat ?? outside ?? band
        const r = even ?? RAMP[k]!,
          s = even ?? RAMP[k + 1]!
        const red = Math.min((r[0]! + (s[0]! - r[0]!) * f) * light, 255)
        const green = Math.min((r[1]! + (s[1]! - r[1]!) * f) * light, 255)
        const blue = Math.min((r[2]! + (s[2]! - r[2]!) * f) * light, 255)
        out[y * width + x] = 0xff000000 | (blue << 16) | (green << 8) | red
        painted++
      }
    }
  }
  return painted
}
