/** The tools that work in plan while the line is drawn. */
import type { ShallowRef } from 'vue'
import type { SnapLines, Snap } from '@/canvas/shared/snap'
import type { ViewTransform } from '@/canvas/shared/viewTransform'
import type { Workbench } from '@/composables/workbench'
import type { PlanPlace, Press, Tool } from '../tool'
import { addPi } from './addPi'
import { curveThrough } from './curveThrough'
import { drawRoad } from './drawRoad'
import { fitLine } from './fitLine'
import { joinEdge } from './joinEdge'

export interface PlanContext {
  bench: Workbench
  view: () => ViewTransform
  /** received lines that may be caught */
  received: () => SnapLines[]
  /** what is caught now, for the picture */
  caught: ShallowRef<Snap | null>
  /** the place that is caught near one, else itself; a line is followed from `last` */
  catchAt: (at: PlanPlace, press: Pick<Press, 'ctrl'>, more?: { last?: PlanPlace; marked?: boolean }) => PlanPlace
}
export const planTools = (on: PlanContext): Tool<PlanPlace>[] => [addPi(on), drawRoad(on), fitLine(), curveThrough(on), joinEdge(on)]
