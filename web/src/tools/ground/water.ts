/** Which ground drains to a place, and where ponds stand. */
import type { Water } from '@/api/types'
import type { PlanPlace, Tool } from '../tool'
import type { GroundWork } from './index'

export const water = (on: GroundWork): Tool<PlanPlace> => ({
  id: 'water',
  view: 'plan',
  stage: 'ground',
  name: 'Water path',
  looks: true,
  ready: on.there,
  hint: 'Click a place to see which ground drains to it, and where ponds stand.',
  async click({ e, n }) {
    on.gathered.value = await on.ask<Water>(`water?e=${e}&n=${n}`)
  },
})
