/** Received mapping in space: lines on the ground, walls and roofs where a line has a height, crowns over circles. */
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  InstancedMesh,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  Mesh,
  MeshLambertMaterial,
  Quaternion,
  ShapeUtils,
  SphereGeometry,
  Vector2,
  Vector3,
  type Object3D,
} from 'three'
import { HEAD, ROLES, type GroundLines } from '../plan/groundLayers'
import { ribbon, type Ribbon, type Spot } from './marks'

const LIFT = 0.1 // m, so that a line is not lost in the ground
/** Words in the name of a layer that is water: drawn as a band so wide, m. */
const WATER = /water|stream|river|beck|burn|brook|canal|pond/i
const BESIDE = /bank|wall|edge|fence/i // what stands beside it
const BAND = 2.5
const CROWN = { middle: 0.62, half: 0.38 } // of a tree's height

/** What stands up: faces of walls and roofs as flat triples of corners, and crowns as middle e, n, z, radius, half height. */
export function standing(lines: GroundLines, shift: readonly [number, number], wanted: (layer: string) => boolean) {
  const flat: number[] = [],
    faces: number[] = [],
    crowns: [number, number, number, number, number][] = []
  const background = ROLES.indexOf('background')
  const there = lines.layers.map(wanted)
  const at = (k: number): [number, number, number] => [
    lines.vertices[3 * k]! + shift[0],
    lines.vertices[3 * k + 1]! + shift[1],
    lines.vertices[3 * k + 2]!,
  ]
  for (let i = 0; i + 1 < lines.starts.length; i++) {
    const [role, , , layer, round] = lines.heads.subarray(HEAD * i, HEAD * i + HEAD)
    if (role !== background || !there[layer!]) continue
    const height = lines.heights[i]!
    const points = Array.from({ length: lines.starts[i + 1]! - lines.starts[i]! }, (_, k) => at(lines.starts[i]! + k))
    for (let k = 0; k + 1 < points.length; k++) for (const p of [points[k]!, points[k + 1]!]) flat.push(p[0], p[1], p[2] + LIFT)
    if (!height) continue
    const closed = Math.hypot(points[0]![0] - points.at(-1)![0], points[0]![1] - points.at(-1)![1]) < 0.01
    if (round) {
      const mean = (c: number) => points.reduce((sum, p) => sum + p[c]!, 0) / points.length
      const [e, n, z] = [mean(0), mean(1), mean(2)]
      const radius = Math.max(...points.map((p) => Math.hypot(p[0] - e, p[1] - n)))
      crowns.push([e, n, z + CROWN.middle * height, radius, CROWN.half * height])
      continue
    }
    const roof = Math.max(...points.map((p) => p[2])) + height
    const top = (p: readonly number[]) => (closed ? roof : p[2]! + height)
    for (let k = 0; k + 1 < points.length; k++) {
      const [a, b] = [points[k]!, points[k + 1]!]
      faces.push(...a, ...b, b[0], b[1], top(b), ...a, b[0], b[1], top(b), a[0], a[1], top(a))
    }
    if (closed) {
      const ring = points.slice(0, -1).map((p) => new Vector2(p[0], p[1]))
      for (const corners of ShapeUtils.triangulateShape(ring, [])) for (const c of corners) faces.push(ring[c]!.x, ring[c]!.y, roof)
    }
  }
  return { flat, faces, crowns }
}

/** Standing water within a ring. */
function sheetOf(ring: readonly Spot[]): Ribbon {
  const flat = ring.map((p) => new Vector2(p[0], p[1]))
  return { points: ring.flat(), faces: ShapeUtils.triangulateShape(flat, []).flat() }
}
/** Water, whatever its lines are to the ground: bands that lie on it along a line, a sheet within a ring. */
export function waterBands(lines: GroundLines, shift: readonly [number, number], wanted: (layer: string) => boolean): Ribbon[] {
  const there = lines.layers.map((name) => WATER.test(name) && !BESIDE.test(name) && wanted(name))
  const ignored = ROLES.indexOf('ignore')
  const out: Ribbon[] = []
  for (let i = 0; i + 1 < lines.starts.length; i++) {
    const [role, , , layer] = lines.heads.subarray(HEAD * i, HEAD * i + HEAD)
    if (!there[layer!] || role === ignored) continue
    const spots = Array.from({ length: lines.starts[i + 1]! - lines.starts[i]! }, (_, k): Spot => {
      const at = 3 * (lines.starts[i]! + k)
      return [lines.vertices[at]! + shift[0], lines.vertices[at + 1]! + shift[1], lines.vertices[at + 2]! + LIFT]
    })
    const [first, last] = [spots[0]!, spots.at(-1)!]
    if (spots.length > 3 && Math.hypot(first[0] - last[0], first[1] - last[1]) < 0.01) out.push(sheetOf(spots.slice(0, -1)))
    else out.push(ribbon(spots, false, BAND))
  }
  return out
}

export function mappingObjects(lines: GroundLines, shift: readonly [number, number], wanted: (layer: string) => boolean): Object3D[] {
  const { flat, faces, crowns } = standing(lines, shift, wanted)
  const geometry = (values: number[]) => new BufferGeometry().setAttribute('position', new BufferAttribute(new Float32Array(values), 3))
  const out: Object3D[] = [new LineSegments(geometry(flat), new LineBasicMaterial({ color: '#4d5b3a' }))]
  for (const band of waterBands(lines, shift, wanted)) {
    const water = geometry(band.points)
    water.setIndex(band.faces)
    water.computeVertexNormals()
    out.push(new Mesh(water, new MeshLambertMaterial({ color: '#5f93b4', side: DoubleSide })))
  }
  if (faces.length) {
    const walls = geometry(faces)
    walls.computeVertexNormals()
    out.push(new Mesh(walls, new MeshLambertMaterial({ color: '#b9a892', side: DoubleSide })))
  }
  if (crowns.length) {
    const trees = new InstancedMesh(
      new SphereGeometry(1, 10, 7),
      new MeshLambertMaterial({ color: '#6f8152', flatShading: true }),
      crowns.length,
    )
    const upright = new Quaternion().setFromAxisAngle(new Vector3(1, 0, 0), Math.PI / 2)
    crowns.forEach(([e, n, z, radius, half], i) =>
      trees.setMatrixAt(i, new Matrix4().compose(new Vector3(e, n, z), upright, new Vector3(radius, half, radius))),
    )
    out.push(trees)
  }
  return out
}
