/** A corner of a junction whose radius is dragged by the middle of its arc, or by a tangent point along its edge. */
import type { CornerRow, JunctionRow } from '@/api/types'
import type { Workbench } from '@/composables/workbench'
import type { Grip } from '../drag'
import type { PlanPlace } from '../tool'

const LEAST = 1 // m
const GREATEST = 200
type Held = Pick<CornerRow, 'centre' | 'handle' | 'start' | 'end' | 'shape'>

/** The radius at which the middle of an arc comes to a place, m; the arc goes round a corner between two edges that keep their angle. */
export function radiusAt(corner: Held, at: PlanPlace): number | null {
  const arc = arcOf(corner)
  if (!arc) return null
  const { tip, beyond, own, inward } = arc
  const back = (tip[0] - at.e) * inward[0] + (tip[1] - at.n) * inward[1]
  return rounded((back / beyond) * (corner.shape.radius / own))
}

/** The radius at which a tangent point comes to a place along its edge, m; only of one radius. */
export function radiusWithTangentAt(corner: Held, which: 'start' | 'end', at: PlanPlace): number | null {
  const arc = arcOf(corner)
  if (!arc || corner.shape.form !== 'radius') return null
  const [e, n] = [corner[which]!.place[0] - arc.tip[0], corner[which]!.place[1] - arc.tip[1]]
  const length = Math.hypot(e, n)
  const along = ((at.e - arc.tip[0]) * e + (at.n - arc.tip[1]) * n) / length
  return rounded((along / length) * corner.shape.radius)
}

const rounded = (radius: number) => Math.min(Math.max(Math.round(radius * 10) / 10, LEAST), GREATEST)

/** The corner where both edges would cross, how far it lies beyond the arc for each metre of radius, the arc's own radius, and the
 * direction from the centre to the arc's middle. */
function arcOf({ centre, handle, start, end, shape }: Held) {
  if (!centre || !handle || !start || !end || shape.form === 'none') return null
  const away = (p: readonly number[]) => Math.atan2(p[0]! - centre[0], p[1]! - centre[1])
  const turned = Math.abs(((away(end.place) - away(start.place) + 3 * Math.PI) % (2 * Math.PI)) - Math.PI)
  const beyond = 1 / Math.cos(turned / 2) - 1 // from the middle of the arc to the corner, for each metre of radius
  if (!(beyond > 1e-6)) return null
  const own = Math.hypot(handle[0] - centre[0], handle[1] - centre[1])
  const inward = [(handle[0] - centre[0]) / own, (handle[1] - centre[1]) / own] as const
  const tip = [centre[0] + inward[0] * own * (1 + beyond), centre[1] + inward[1] * own * (1 + beyond)] as const
  return { tip, beyond, own, inward }
}

/** Held by the middle of the arc, or by the tangent point at its start or end. */
export function cornerGrip(
  bench: Workbench,
  junction: JunctionRow,
  corner: CornerRow,
  by: 'middle' | 'start' | 'end' = 'middle',
): Grip<PlanPlace, number> | null {
  /** as it is tried out now: where edges bend, each answer brings the point nearer to the pointer */
  const now = () => bench.junctions.value.find((j) => j.id === junction.id)?.corners.find((c) => c.road_id === corner.road_id) ?? corner
  const to = (at: PlanPlace) => (by === 'middle' ? radiusAt(now(), at) : radiusWithTangentAt(now(), by, at)) ?? corner.shape.radius
  const held = by === 'middle' ? radiusAt(corner, { e: 0, n: 0 }) : radiusWithTangentAt(corner, by, { e: 0, n: 0 })
  if (!bench.canEdit.value || held === null) return null
  return {
    id: `corner-${corner.road_id}`,
    to,
    tryOut: (radius) => bench.tryCorners(junction.id, [corner], { radius }),
    save: (radius) => bench.changeCorners(junction.id, [corner.road_id], { radius }),
    back: bench.endCornerTrial,
  }
}
