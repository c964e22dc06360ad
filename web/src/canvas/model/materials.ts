/** What things in the model are made of: ground shaded by its relief, pavement, verge, slope; each vertex gets its colour once. */
import { BufferAttribute, Color, type Mesh, type MeshLambertMaterial } from 'three'
import { shadePoints } from '../plan/terrain'

/** From the lowest ground to the highest. */
const HEIGHTS = ['#93a878', '#b3b685', '#c9bd8f', '#cdb48c'].map((c) => new Color(c))
/** Pavement, verge and slope, in the order the server counts them behind the ground. */
const BUILT = ['#4c5459', '#86a05e', '#b08d5f'].map((c) => new Color(c))
const DARKEST = 0.42 // of a colour, where the light does not reach

function byHeight(share: number, into: Color): Color {
  const at = Math.min(Math.max(share, 0), 1) * (HEIGHTS.length - 1)
  const i = Math.min(Math.floor(at), HEIGHTS.length - 2)
  return into.copy(HEIGHTS[i]!).lerp(HEIGHTS[i + 1]!, at - i)
}

/** Colours of ground vertices (n * 3): by height, darker where a steep light from the north-west would leave them in shadow. */
export function reliefColours(points: Float32Array, triangles: Uint32Array): Float32Array {
  const shade = shadePoints(points, triangles)
  let low = Infinity,
    high = -Infinity
  for (let i = 2; i < points.length; i += 3) {
    low = Math.min(low, points[i]!)
    high = Math.max(high, points[i]!)
  }
  const out = new Float32Array(points.length)
  const colour = new Color()
  for (let i = 0; i < points.length; i += 3) {
    const light = DARKEST + (1 - DARKEST) * Math.min(shade[i / 3]! * 1.25, 1)
    byHeight((points[i + 2]! - low) / Math.max(high - low, 1), colour)
      .multiplyScalar(light)
      .toArray(out, i)
  }
  return out
}

/** The ground of a mesh shaded by its relief. */
export function paintRelief(thing: Mesh, points: Float32Array, triangles: Uint32Array): void {
  thing.geometry.setAttribute('color', new BufferAttribute(reliefColours(points, triangles), 3))
  const material = thing.material as MeshLambertMaterial
  material.vertexColors = true
  material.color.set('#ffffff')
}

/** Each triangle in the colour of its material, edges between them sharp; ground shaded by its relief. */
export function paintByMaterial(thing: Mesh, points: Float32Array, triangles: Uint32Array, material: Uint32Array): void {
  const relief = reliefColours(points, triangles)
  const flat = thing.geometry.toNonIndexed()
  const count = flat.getAttribute('position').count
  const colours = new Float32Array(3 * count)
  for (let i = 0; i < count; i++) {
    const made = material[Math.floor(i / 3)]!
    if (made) BUILT[made - 1]!.toArray(colours, 3 * i)
    else colours.set(relief.subarray(3 * triangles[i]!, 3 * triangles[i]! + 3), 3 * i)
  }
  flat.setAttribute('color', new BufferAttribute(colours, 3))
  thing.geometry.dispose()
  thing.geometry = flat
  ;(thing.material as MeshLambertMaterial).vertexColors = true
}
