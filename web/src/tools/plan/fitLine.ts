/** A line through measured points; it is made in the inspector, so a click in plan goes on choosing. */
import type { PlanPlace, Tool } from '../tool'

export const fitLine = (): Tool<PlanPlace> => ({ id: 'fit-line', view: 'plan', stage: 'line', name: 'Fit line', hint: '' })
