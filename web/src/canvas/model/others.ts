/** The other roads of the project as light lines in the model, each found under the pointer. */
import { BufferAttribute, BufferGeometry, LineBasicMaterial, LineSegments, Vector3, type Camera } from 'three'
import type { LightRoad } from '@/api/types'
import { awayFrom } from '../plan/layers'

const OTHER = '#7c8a91'
const LIFT = 0.3 // m over the road, so that the ground does not hide it
type Spot = [number, number, number]

/** Runs of a road's points that have a level, from an origin. */
export function runsOf(road: LightRoad, [e0, n0]: readonly [number, number]): Spot[][] {
  const runs: Spot[][] = [[]]
  for (const [e, n, z] of road.points) {
    if (z === null) runs.push([])
    else runs.at(-1)!.push([e - e0, n - n0, z + LIFT])
  }
  return runs.filter((r) => r.length > 1)
}

export function otherRoads(roads: readonly LightRoad[], origin: readonly [number, number]) {
  const own = roads.map((road) => ({ road, runs: runsOf(road, origin) }))
  const segments = own.flatMap(({ runs }) => runs.flatMap((run) => run.slice(1).flatMap((p, i) => [...run[i]!, ...p])))
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(new Float32Array(segments), 3))
  const lines = new LineSegments(geometry, new LineBasicMaterial({ color: OTHER }))
  /** The nearest road within some px of a place in the picture. */
  function at(camera: Camera, width: number, height: number, x: number, y: number, within = 8): LightRoad | null {
    let best = within
    let found: LightRoad | null = null
    for (const { road, runs } of own) {
      for (const run of runs) {
        const seen = run.map((p) => new Vector3(...p).project(camera)).filter((p) => p.z > -1 && p.z < 1)
        const away = awayFrom(
          seen.map((p) => [((p.x + 1) / 2) * width, ((1 - p.y) / 2) * height] as const),
          x,
          y,
        )
        if (away < best) [best, found] = [away, road]
      }
    }
    return found
  }
  return { lines, at }
}
