/** Received lines by role, flow arrows, spot levels and labels on contours. */
import { units } from '@/lib/units'
import type { Pen } from '../shared/pen'
import type { SnapLines } from '../shared/snap'
import { toScreen, type ViewTransform } from '../shared/viewTransform'
import type { TerrainMesh } from './terrain'

export const ROLES = ['spot', 'breakline', 'outer', 'hole', 'background', 'ignore', 'unsorted'] as const

/**
 * Lines as the server packs them: heads are role number, survey, line, layer, 1 if a circle; `own` tells the line's own vertices from
 * generated ones.
 */
export interface GroundLines {
  origin: [number, number]
  vertices: Float32Array
  starts: Uint32Array
  heads: Uint32Array
  own: Uint32Array
  /** m above the ground, of each line */
  heights: Float32Array
  layers: string[]
}
export const HEAD = 5 // numbers in the head of a line

/** The lines as what a drawn line may catch; `hidden` says whether a layer is not drawn. */
export const snapLines = (lines: GroundLines, hidden: (layer: string) => boolean): SnapLines => ({
  origin: lines.origin,
  vertices: lines.vertices,
  starts: lines.starts,
  stride: 3,
  hidden: (k) => hidden(lines.layers[lines.heads[HEAD * k + 3]!]!),
})

const STYLE: Record<string, { colour: string; width: number; dash: number[] }> = {
  breakline: { colour: '#7b5a3c', width: 1, dash: [] },
  outer: { colour: '#1d2a33', width: 1.4, dash: [9, 3] },
  hole: { colour: '#1d2a33', width: 1, dash: [3, 3] },
  background: { colour: '#8b979d', width: 0.9, dash: [] },
  unsorted: { colour: '#a8322a', width: 1, dash: [2, 3] },
}
const NEAR = 1.5 // pixels per metre from which vertices are marked

/** `wanted` says whether a layer is drawn now; all are, when it is not given. */
export function drawGroundLines(
  pen: Pen,
  lines: GroundLines,
  view: ViewTransform,
  roles: readonly string[],
  wanted: (layer: string) => boolean = () => true,
): void {
  const [ox, oy] = toScreen(view, lines.origin[0], lines.origin[1])
  const at = (k: number): [number, number] => [ox + lines.vertices[3 * k]! * view.scale, oy - lines.vertices[3 * k + 1]! * view.scale]
  for (const role of roles) {
    const style = STYLE[role]
    if (!style) continue
    pen.strokeStyle = style.colour
    pen.lineWidth = style.width
    pen.setLineDash(style.dash)
    pen.beginPath()
    eachOf(lines, role, wanted, (a, b) => {
      for (let k = a; k < b; k++) {
        const [x, y] = at(k)
        if (k === a) pen.moveTo(x, y)
        else pen.lineTo(x, y)
      }
    })
    pen.stroke()
    pen.setLineDash([])
    if (role !== 'breakline' || view.scale < NEAR) continue
    for (const own of [1, 0]) {
      pen.beginPath()
      eachOf(lines, role, wanted, (a, b) => {
        for (let k = a; k < b; k++) {
          if (lines.own[k] !== own) continue
          const [x, y] = at(k)
          if (x < -4 || y < -4 || x > view.width + 4 || y > view.height + 4) continue
          const r = own ? 3 : 2 // own vertices are squares, generated ones are crosses
          pen.moveTo(x - r, y - r)
          if (own) {
            pen.lineTo(x + r, y - r)
            pen.lineTo(x + r, y + r)
            pen.lineTo(x - r, y + r)
            pen.lineTo(x - r, y - r)
          } else {
            pen.lineTo(x + r, y + r)
            pen.moveTo(x - r, y + r)
            pen.lineTo(x + r, y - r)
          }
        }
      })
      pen.stroke()
    }
  }
}

function eachOf(lines: GroundLines, role: string, wanted: (layer: string) => boolean, take: (from: number, to: number) => void) {
  const number = ROLES.indexOf(role as (typeof ROLES)[number])
  const there = lines.layers.map(wanted)
  for (let i = 0; i + 1 < lines.starts.length; i++)
    if (lines.heads[HEAD * i] === number && there[lines.heads[HEAD * i + 3]!]) take(lines.starts[i]!, lines.starts[i + 1]!)
}

/** The layers that stand behind the design: received lines that shape no ground. */
export function mappingLayers(lines: GroundLines): string[] {
  const behind = ['background', 'unsorted', 'outer', 'hole'].map((r) => ROLES.indexOf(r as (typeof ROLES)[number]))
  const out = new Set<string>()
  for (let i = 0; i + 1 < lines.starts.length; i++)
    if (behind.includes(lines.heads[HEAD * i]!)) out.add(lines.layers[lines.heads[HEAD * i + 3]!]!)
  return [...out].sort()
}

const CELL = 44 // px between arrows and between spot levels

/** One triangle a screen cell, the one whose middle comes first; calls with its middle on screen and its three corners. */
function sampled(
  mesh: TerrainMesh,
  view: ViewTransform,
  cell: number,
  take: (x: number, y: number, corners: [number, number, number]) => void,
) {
  const [ox, oy] = toScreen(view, mesh.origin[0], mesh.origin[1])
  const { points: p, triangles: t } = mesh
  const columns = Math.ceil(view.width / cell) + 1
  const seen = new Uint8Array(columns * (Math.ceil(view.height / cell) + 1))
  for (let i = 0; i < t.length; i += 3) {
    const a = t[i]! * 3,
      b = t[i + 1]! * 3,
      c = t[i + 2]! * 3
    const x = ox + ((p[a]! + p[b]! + p[c]!) / 3) * view.scale,
      y = oy - ((p[a + 1]! + p[b + 1]! + p[c + 1]!) / 3) * view.scale
    if (x < 0 || y < 0 || x >= view.width || y >= view.height) continue
    const k = Math.floor(y / cell) * columns + Math.floor(x / cell)
    if (seen[k]) continue
    seen[k] = 1
    take(x, y, [a, b, c])
  }
}

/** Arrows down the steepest fall; flat triangles have none. */
export function drawFlow(pen: Pen, mesh: TerrainMesh, view: ViewTransform): void {
  const p = mesh.points
  pen.strokeStyle = '#2f6f8f'
  pen.lineWidth = 1.1
  pen.beginPath()
  sampled(mesh, view, CELL, (x, y, [a, b, c]) => {
    const ux = p[b]! - p[a]!,
      uy = p[b + 1]! - p[a + 1]!,
      uz = p[b + 2]! - p[a + 2]!
    const vx = p[c]! - p[a]!,
      vy = p[c + 1]! - p[a + 1]!,
      vz = p[c + 2]! - p[a + 2]!
    const nx = uy * vz - uz * vy,
      ny = uz * vx - ux * vz,
      nz = ux * vy - uy * vx
    const fall = Math.hypot(nx, ny)
    if (fall < 1e-3 * Math.abs(nz)) return
    const dx = nx / fall,
      dy = -ny / fall // the normal leans the way the ground falls; north is up the screen
    const [hx, hy] = [x + dx * 9, y + dy * 9]
    pen.moveTo(x - dx * 9, y - dy * 9)
    pen.lineTo(hx, hy)
    pen.lineTo(hx - dx * 5 - dy * 3, hy - dy * 5 + dx * 3)
    pen.moveTo(hx, hy)
    pen.lineTo(hx - dx * 5 + dy * 3, hy - dy * 5 - dx * 3)
  })
  pen.stroke()
}

/** Pixels per metre from which single points can be told apart. */
export const showsPoints = (scale: number) => scale > 1.3

export function drawPoints(pen: Pen, mesh: TerrainMesh, view: ViewTransform): void {
  const [ox, oy] = toScreen(view, mesh.origin[0], mesh.origin[1])
  pen.strokeStyle = '#9b8a6c'
  pen.lineWidth = 1
  pen.beginPath()
  for (let i = 0; i < mesh.points.length; i += 3) {
    const x = ox + mesh.points[i]! * view.scale,
      y = oy - mesh.points[i + 1]! * view.scale
    if (x < 0 || y < 0 || x > view.width || y > view.height) continue
    pen.moveTo(x - 2.5, y)
    pen.lineTo(x + 2.5, y)
    pen.moveTo(x, y - 2.5)
    pen.lineTo(x, y + 2.5)
  }
  pen.stroke()
}

/** Levels at points of the surface, spread so that they can be read; the decimal point stands on the point. */
export function drawSpots(pen: Pen, mesh: TerrainMesh, view: ViewTransform): void {
  pen.font = "500 10px 'IBM Plex Sans Variable', sans-serif"
  pen.textAlign = 'left'
  pen.textBaseline = 'middle'
  const [ox, oy] = toScreen(view, mesh.origin[0], mesh.origin[1])
  const taken: [number, number][] = []
  sampled(mesh, view, 64, (_x, _y, [a]) => {
    const x = ox + mesh.points[a]! * view.scale,
      y = oy - mesh.points[a + 1]! * view.scale
    if (taken.some(([tx, ty]) => Math.abs(tx - x) < 46 && Math.abs(ty - y) < 13)) return
    taken.push([x, y])
    const text = (mesh.points[a + 2]! / units.value.metre).toFixed(2)
    pen.strokeStyle = '#fbf8f1'
    pen.lineWidth = 3
    pen.strokeText(text, x + 4, y)
    pen.fillStyle = '#5b4a32'
    pen.fillText(text, x + 4, y)
    pen.beginPath()
    pen.moveTo(x - 1.5, y - 1.5)
    pen.lineTo(x + 1.5, y - 1.5)
    pen.lineTo(x + 1.5, y + 1.5)
    pen.lineTo(x - 1.5, y + 1.5)
    pen.closePath()
    pen.fill()
  })
}
