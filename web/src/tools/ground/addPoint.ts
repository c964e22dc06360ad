/** A point put into the surface, at the level of the ground there. */
import { tidy, type PlanPlace, type Tool } from '../tool'
import type { GroundWork } from './index'

const NO_GROUND = 'There is no ground here to take a level from. Add the point inside the surface, then type its place and level.'

export function addPoint(on: GroundWork): Tool<PlanPlace> {
  return {
    id: 'add-point',
    view: 'plan',
    stage: 'ground',
    name: 'Add point',
    ready: on.there,
    hint: 'Click where the point should be; it takes the level of the ground there, and you may type another.',
    async click({ e, n }) {
      const level = await on.levelAt({ e, n })
      if (level === null) return on.told.tell(NO_GROUND, { kind: 'wrong' })
      if (await on.ground.edit([{ do: 'add_point', to: [e, n, tidy(level)] }])) await on.choose({ e, n })
    },
  }
}
