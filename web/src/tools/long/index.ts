/** The tools that work on the long section while levels are designed. */
import type { Guides } from '@/composables/useGuides'
import type { Workbench } from '@/composables/workbench'
import type { LongPlace, Tool } from '../tool'
import { addPvi } from './addPvi'
import { guide } from './guide'
import { pviThrough } from './pviThrough'

export interface LongContext {
  bench: Workbench
  guides: Guides
  /** a crossing near a place with its exact values, else the place as a person would type it */
  snapped: (at: LongPlace) => LongPlace
  /** m up or down within which a line is chosen to lie parallel to */
  reach: () => number
}
export const longTools = (on: LongContext): Tool<LongPlace>[] => [addPvi(on), guide(on), pviThrough(on)]
