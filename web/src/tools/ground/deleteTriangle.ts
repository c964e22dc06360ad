/** A triangle taken out of the surface. */
import type { PlanPlace, Tool } from '../tool'
import type { GroundWork } from './index'

export const deleteTriangle = (on: GroundWork): Tool<PlanPlace> => ({
  id: 'delete-triangle',
  view: 'plan',
  stage: 'ground',
  name: 'Delete triangle',
  ready: on.there,
  hint: 'Click a triangle to take it out of the surface.',
  click: ({ e, n }) => on.ground.edit([{ do: 'delete_triangles', at: [e, n] }]),
})
