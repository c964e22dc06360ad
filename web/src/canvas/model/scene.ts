/**
 * The road in space: ground, finished surface, edge lines. Drawn on request only. Origins are taken off in float64 before anything
 * becomes float32.
 */
import {
  AmbientLight,
  BufferAttribute,
  BufferGeometry,
  Color,
  DirectionalLight,
  DoubleSide,
  FrontSide,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshLambertMaterial,
  PerspectiveCamera,
  Scene,
  Vector3,
  WebGLRenderer,
} from 'three'
import { OrbitControls } from 'three/addons/controls/OrbitControls.js'
import type { Packed } from '@/api/client'
import type { LightRoad } from '@/api/types'
import type { GroundLines } from '../plan/groundLayers'
import { makeCutting, makeHole, type Strip } from './cutting'
import { mappingObjects } from './mapping'
import { marksOf } from './marks'
import { paintByMaterial, paintRelief } from './materials'
import { otherRoads } from './others'

type Drawn = Mesh | LineSegments

export interface ModelScene {
  setGround(ground: Packed | null): void
  /** `marked`: a carriageway with lines on it */
  setRoad(road: Packed | null, marked?: boolean): void
  /** edge lines of the road, on demand */
  showEdges(wanted: boolean): void
  /** other roads as they are built, in fainter colours */
  setBeside(roads: readonly Packed[]): void
  /** the finished ground of all roads and junctions, in place of ground and roads; null: as they are each on their own */
  setFinished(finished: Packed | null): void
  /** what a drag makes of a part of it, in its boxes in place of the whole */
  setFinishedNear(near: Packed | null): void
  /** all other roads, drawn lightly */
  setOthers(roads: readonly LightRoad[]): void
  /** the other road under a place, px */
  otherAt(x: number, y: number): LightRoad | null
  /** received mapping, laid on the ground, of the layers wanted */
  setMapping(lines: GroundLines | null, wanted: (layer: string) => boolean): void
  /** stand at a row of the centre line and look along the road */
  stand(index: number, eye: number): void
  /** the whole road, or the whole ground */
  overview(ground?: boolean): void
  /** from above on a place, E and N, with so many m around it */
  lookAt(e: number, n: number, span: number): void
  resize(width: number, height: number): void
  draw(): void
  dispose(): void
}

/** A piece of an edge line and the section it begins at. */
interface Piece {
  first: number
  points: Float32Array
}

/** Pieces of a role on one side. */
function piecesOf(p: Packed, side: string, role: string): Piece[] {
  const starts = p.ints.edge_starts!
  return (p.header.roles as [string, string, number][]).flatMap(([s, r, first], i) =>
    s === side && r === role ? [{ first, points: p.floats.edges!.subarray(3 * starts[i]!, 3 * starts[i + 1]!) }] : [],
  )
}
const named = (p: Packed) => p.header.named as { centre: string; paved: string; toe: string }

/** An edge beside a piece of the centre line: the first of its points there, counted in the floats of that piece. */
function within(edge: Piece, centre: Piece): number | null {
  const from = 3 * (edge.first - centre.first)
  return from >= 0 && from + edge.points.length <= centre.points.length ? from : null
}
const centrePieces = (p: Packed) => piecesOf(p, '', named(p).centre)

/** Pieces of the centre line and of the pavement edges beside them. */
export function pavedPieces(p: Packed): { centre: Float32Array; edge: Float32Array; side: 'left' | 'right' }[] {
  const centres = centrePieces(p)
  return (['left', 'right'] as const).flatMap((side) =>
    piecesOf(p, side, named(p).paved).flatMap((edge) => {
      const centre = centres.find((c) => within(edge, c) !== null)
      if (!centre) return []
      const from = within(edge, centre)!
      return [{ centre: centre.points.subarray(from, from + edge.points.length), edge: edge.points, side }]
    }),
  )
}

/** Between what the road reaches on either side, for each piece of its centre line: its toe, else its pavement, else the line itself. */
export function builtStrips(p: Packed, shift: [number, number]): Strip[] {
  const edges = (side: string) => [named(p).paved, named(p).toe].flatMap((role) => piecesOf(p, side, role))
  const reach = (centre: Piece, side: string) => {
    const line = centre.points.slice()
    for (const edge of edges(side)) {
      const from = within(edge, centre)
      if (from !== null) line.set(edge.points, from)
    }
    for (let i = 0; i < line.length; i += 3) {
      line[i]! += shift[0]
      line[i + 1]! += shift[1]
    }
    return line
  }
  return centrePieces(p).map((centre) => ({ left: reach(centre, 'left'), right: reach(centre, 'right') }))
}

/** Level of the vertex of a mesh that is nearest to a place in plan. */
function levelNear(thing: Mesh | null, x: number, y: number): number {
  const all = (thing?.geometry.getAttribute('position').array ?? []) as Float32Array
  let best = Infinity
  let level = 0
  for (let i = 0; i < all.length; i += 3) {
    const away = Math.hypot(all[i]! - x, all[i + 1]! - y)
    if (away < best) [best, level] = [away, all[i + 2]!]
  }
  return level
}

const COARSE = 0.5 // of the pixels across, while it moves
function drawnBySoftware(renderer: WebGLRenderer): boolean {
  const gl = renderer.getContext()
  const told = gl.getExtension('WEBGL_debug_renderer_info')
  const name = String(gl.getParameter(told ? told.UNMASKED_RENDERER_WEBGL : gl.RENDERER))
  return /swiftshader|llvmpipe|software/i.test(name)
}

export function makeScene(canvas: HTMLCanvasElement): ModelScene {
  const renderer = new WebGLRenderer({ canvas, antialias: true, preserveDrawingBuffer: true })
  const scene = new Scene()
  scene.background = new Color('#e6ecee')
  const camera = new PerspectiveCamera(50, 1, 0.5, 20000)
  camera.up.set(0, 0, 1)
  const controls = new OrbitControls(camera, canvas)
  const sun = new DirectionalLight('#fff7e6', 2.2)
  sun.position.set(-1, 1, 1.6)
  scene.add(new AmbientLight('#dfe8ee', 1.5), sun)
  const cutting = makeCutting()
  let origin: [number, number] | null = null
  let ground: Mesh | null = null
  let finished: Mesh | null = null
  let finishedNear: Mesh | null = null
  const hole = makeHole()
  let mapping: Drawn[] = []
  let road: Drawn[] = []
  let marks: Drawn[] = []
  let edges: LineSegments | null = null
  let edgesWanted = false
  let beside: Drawn[] = []
  let ownStrips: Strip[] = []
  let besideStrips: Strip[] = []
  let besideFrom: readonly Packed[] = []
  let lightly: ReturnType<typeof otherRoads> | null = null
  const size = { width: 1, height: 1 }
  let centre: Float32Array | null = null
  let frame = 0

  const draw = () => {
    cancelAnimationFrame(frame)
    frame = requestAnimationFrame(() => renderer.render(scene, camera))
  }
  controls.addEventListener('change', draw)
  // without a graphics card a picture takes long: while it is turned it is drawn coarser, and sharp again when it rests
  const coarse = drawnBySoftware(renderer) ? COARSE : 1
  function sharpness(share: number) {
    if (coarse === 1) return
    renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2) * share)
    draw()
  }
  controls.addEventListener('start', () => sharpness(coarse))
  controls.addEventListener('end', () => sharpness(1))

  function mesh(points: Float32Array, faces: Uint32Array, shift: [number, number], colour: string, lift: number): Mesh {
    const geometry = new BufferGeometry()
    const moved = new Float32Array(points.length)
    for (let i = 0; i < points.length; i += 3) {
      moved[i] = points[i]! + shift[0]
      moved[i + 1] = points[i + 1]! + shift[1]
      moved[i + 2] = points[i + 2]! + lift
    }
    geometry.setAttribute('position', new BufferAttribute(moved, 3))
    geometry.setIndex(new BufferAttribute(faces, 1))
    geometry.computeVertexNormals()
    return new Mesh(
      geometry,
      new MeshLambertMaterial({ color: colour, side: DoubleSide, polygonOffset: lift < 0, polygonOffsetFactor: 2, polygonOffsetUnits: 2 }),
    )
  }
  /** A road's finished surface, each part in its material. */
  function built(p: Packed, shift: [number, number], lift: number): Mesh {
    const made = mesh(p.floats.finished!, p.ints.finished_faces!, shift, '#ffffff', lift)
    paintByMaterial(made, p.floats.finished!, p.ints.finished_faces!, p.ints.finished_material!)
    return made
  }
  function drop(thing: Drawn | null) {
    if (!thing) return
    scene.remove(thing)
    thing.geometry.dispose()
    ;(thing.material as LineBasicMaterial).dispose()
  }
  const shiftOf = (p: Packed): [number, number] => {
    origin ??= p.header.origin
    return [p.header.origin[0] - origin[0], p.header.origin[1] - origin[1]]
  }
  return {
    setGround(p) {
      drop(ground)
      ground = p ? mesh(p.floats.points!, p.ints.triangles!, shiftOf(p), '#c8c39f', -0.05) : null
      if (ground) {
        const material = ground.material as MeshLambertMaterial
        material.side = FrontSide // in a cut one stands below it and sees the sky
        cutting.into(material)
        paintRelief(ground, p!.floats.points!, p!.ints.triangles!)
      }
      if (ground) {
        ground.visible = finished === null
        scene.add(ground)
      }
      draw()
    },
    setFinished(p) {
      drop(finished)
      finished = null
      if (p) {
        finished = mesh(p.floats.points!, p.ints.triangles!, shiftOf(p), '#ffffff', 0)
        paintByMaterial(finished, p.floats.points!, p.ints.triangles!, p.ints.material!)
        hole.into(finished.material as MeshLambertMaterial)
        scene.add(finished)
      }
      const whole = p !== null && p.header.whole === true
      for (const thing of [...road, ...beside]) thing.visible = p === null
      if (ground) ground.visible = !whole
      draw()
    },
    setFinishedNear(p) {
      drop(finishedNear)
      finishedNear = p ? mesh(p.floats.points!, p.ints.triangles!, shiftOf(p), '#ffffff', 0) : null
      if (p && finishedNear) {
        paintByMaterial(finishedNear, p.floats.points!, p.ints.triangles!, p.ints.material!)
        scene.add(finishedNear)
      }
      const [e, n] = origin ?? [0, 0]
      const boxes = (p?.header.boxes ?? []) as [number, number, number, number][]
      hole.set(boxes.map(([e0, n0, e1, n1]) => [e0 - e, n0 - n, e1 - e, n1 - n]))
      draw()
    },
    setMapping(lines, wanted) {
      mapping.forEach(drop)
      mapping = []
      if (lines) {
        origin ??= lines.origin
        mapping = mappingObjects(lines, [lines.origin[0] - origin[0], lines.origin[1] - origin[1]], wanted) as Drawn[]
        scene.add(...mapping)
      }
      draw()
    },
    setOthers(roads) {
      drop(lightly?.lines ?? null)
      const first = roads.find((r) => r.points.length)?.points[0]
      if (first) origin ??= [Math.floor(first[0]), Math.floor(first[1])]
      lightly = origin ? otherRoads(roads, origin) : null
      if (lightly) scene.add(lightly.lines)
      draw()
    },
    otherAt: (x, y) => lightly?.at(camera, size.width, size.height, x, y) ?? null,
    setRoad(p, marked = true) {
      road.forEach(drop)
      marks.forEach(drop)
      drop(edges)
      road = []
      marks = []
      edges = null
      centre = null
      ownStrips = p ? builtStrips(p, shiftOf(p)) : []
      cutting.set([...ownStrips, ...besideStrips])
      if (p) {
        const shift = shiftOf(p)
        road.push(built(p, shift, 0.03))
        const vertices = p.floats.edges!
        const starts = p.ints.edge_starts!
        const segments: number[] = []
        for (let i = 0; i + 1 < starts.length; i++)
          for (let k = starts[i]!; k + 1 < starts[i + 1]!; k++)
            for (const j of [k, k + 1])
              segments.push(vertices[3 * j]! + shift[0], vertices[3 * j + 1]! + shift[1], vertices[3 * j + 2]! + 0.08)
        const lines = new BufferGeometry()
        lines.setAttribute('position', new BufferAttribute(new Float32Array(segments), 3))
        edges = new LineSegments(lines, new LineBasicMaterial({ color: '#0e5a68' }))
        edges.visible = edgesWanted
        marks = marksOf(pavedPieces(p)).map((r) => mesh(new Float32Array(r.points), new Uint32Array(r.faces), shift, '#f4f2ea', 0.05))
        for (const m of marks) m.visible = marked
        for (const thing of road) thing.visible = finished === null
        scene.add(...road, ...marks, edges)
        centre = new Float32Array(p.floats.centre!)
        for (let i = 0; i < centre.length; i += 5) {
          centre[i + 1]! += shift[0]
          centre[i + 2]! += shift[1]
        }
      }
      draw()
    },
    setBeside(roads) {
      if (roads.length === besideFrom.length && roads.every((p, i) => p === besideFrom[i])) return
      besideFrom = roads
      beside.forEach(drop)
      beside = roads.map((p) => built(p, shiftOf(p), 0.01))
      besideStrips = roads.flatMap((p) => builtStrips(p, shiftOf(p)))
      cutting.set([...ownStrips, ...besideStrips])
      for (const thing of beside) thing.visible = finished === null
      if (beside.length) scene.add(...beside)
      draw()
    },
    stand(index, eye) {
      if (!centre) return
      const i = Math.min(Math.max(index, 0), centre.length / 5 - 1) * 5
      const [, e, n, z, azimuth] = centre.subarray(i, i + 5) as unknown as [number, number, number, number, number]
      camera.position.set(e, n, z + eye)
      const ahead = Math.min(i + 40, centre.length - 5)
      const target =
        ahead > i + 5
          ? new Vector3(centre[ahead + 1], centre[ahead + 2], centre[ahead + 3]! + eye * 0.8)
          : new Vector3(e + Math.sin(azimuth) * 50, n + Math.cos(azimuth) * 50, z + eye * 0.8)
      controls.target.copy(target)
      controls.update()
      draw()
    },
    showEdges(wanted) {
      edgesWanted = wanted
      if (edges) edges.visible = wanted
      draw()
    },
    overview(wholeGround = false) {
      const along = wholeGround && ground ? null : centre
      const all = along ?? (ground ? (ground.geometry.getAttribute('position').array as Float32Array) : null)
      if (!all) return
      const width = along ? 5 : 3
      const offset = along ? 1 : 0
      let e0 = Infinity,
        e1 = -Infinity,
        n0 = Infinity,
        n1 = -Infinity,
        z = 0
      for (let i = 0; i < all.length; i += width) {
        e0 = Math.min(e0, all[i + offset]!)
        e1 = Math.max(e1, all[i + offset]!)
        n0 = Math.min(n0, all[i + offset + 1]!)
        n1 = Math.max(n1, all[i + offset + 1]!)
        z = all[i + offset + 2]!
      }
      const size = Math.max(e1 - e0, n1 - n0, 50)
      controls.target.set((e0 + e1) / 2, (n0 + n1) / 2, z)
      camera.position.set((e0 + e1) / 2 - size * 0.12, (n0 + n1) / 2 - size * 0.34, z + size * 0.22)
      controls.update()
      draw()
    },
    lookAt(e, n, span) {
      if (!origin) return
      const [x, y] = [e - origin[0], n - origin[1]]
      const z = levelNear(finished ?? ground, x, y)
      controls.target.set(x, y, z)
      camera.position.set(x - span * 0.3, y - span * 0.75, z + span * 0.55)
      controls.update()
      draw()
    },
    resize(width, height) {
      Object.assign(size, { width, height })
      renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2))
      renderer.setSize(width, height, false)
      camera.aspect = width / Math.max(height, 1)
      camera.updateProjectionMatrix()
      draw()
    },
    draw,
    dispose() {
      cancelAnimationFrame(frame)
      controls.dispose()
      drop(ground)
      drop(finished)
      drop(finishedNear)
      mapping.forEach(drop)
      road.forEach(drop)
      marks.forEach(drop)
      drop(edges)
      beside.forEach(drop)
      drop(lightly?.lines ?? null)
      cutting.dispose()
      renderer.dispose()
    },
  }
}
