/** A side between two triangles turned to their other diagonal. */
import type { PlanPlace, Tool } from '../tool'
import type { GroundWork } from './index'

export const turnSide = (on: GroundWork): Tool<PlanPlace> => ({
  id: 'turn-side',
  view: 'plan',
  stage: 'ground',
  name: 'Swap edge',
  ready: on.there,
  hint: 'Click a side between two triangles to turn it to their other diagonal.',
  click: ({ e, n }) => on.ground.edit([{ do: 'swap_edge', at: [e, n] }]),
})
