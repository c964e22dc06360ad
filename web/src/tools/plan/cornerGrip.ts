/** A corner of a junction whose radius is dragged by the middle of its arc. */
import type { CornerRow, JunctionRow } from '@/api/types'
import type { Workbench } from '@/composables/workbench'
import type { Grip } from '../drag'
import type { PlanPlace } from '../tool'

const LEAST = 1 // m
const GREATEST = 200

/** The radius at which the middle of an arc comes to a place, m; the arc goes round a corner between two edges that keep their angle. */
export function radiusAt(corner: Pick<CornerRow, 'centre' | 'handle' | 'start' | 'end' | 'shape'>, at: PlanPlace): number | null {
  const { centre, handle, start, end, shape } = corner
  if (!centre || !handle || !start || !end || shape.form === 'none') return null
  const away = (p: readonly number[]) => Math.atan2(p[0]! - centre[0], p[1]! - centre[1])
  const turned = Math.abs(((away(end.place) - away(start.place) + 3 * Math.PI) % (2 * Math.PI)) - Math.PI)
  const beyond = 1 / Math.cos(turned / 2) - 1 // from the middle of the arc to the corner, for each metre of radius
  if (!(beyond > 1e-6)) return null
  const own = Math.hypot(handle[0] - centre[0], handle[1] - centre[1])
  const [e, n] = [(handle[0] - centre[0]) / own, (handle[1] - centre[1]) / own]
  const tip = [centre[0] + e * own * (1 + beyond), centre[1] + n * own * (1 + beyond)] as const
  const back = (tip[0] - at.e) * e + (tip[1] - at.n) * n
  const radius = (back / beyond) * (shape.radius / own)
  return Math.min(Math.max(Math.round(radius * 10) / 10, LEAST), GREATEST)
}

export function cornerGrip(bench: Workbench, junction: JunctionRow, corner: CornerRow): Grip<PlanPlace, number> | null {
  if (!bench.canEdit.value || radiusAt(corner, { e: 0, n: 0 }) === null) return null
  return {
    id: `corner-${corner.road_id}`,
    to: (at) => radiusAt(corner, at)!,
    tryOut: (radius) => bench.tryCorners(junction.id, [corner], { radius }),
    save: (radius) => bench.changeCorners(junction.id, [corner.road_id], { radius }),
    back: bench.endCornerTrial,
  }
}
