/** A place that the curve of the chosen PI is to go through; the inspector takes it. */
import { useUi } from '@/stores/ui'
import { tidy, type PlanPlace, type Tool } from '../tool'
import type { PlanContext } from './index'

export function curveThrough({ catchAt }: PlanContext): Tool<PlanPlace> {
  const ui = useUi()
  return {
    id: 'curve-through',
    view: 'plan',
    stage: 'line',
    name: '',
    hint: 'Click the place that the curve should go through. Esc leaves it.',
    aim: (at, press) => catchAt(at, press),
    click: ({ e, n }) => (ui.clicked = { e: tidy(e), n: tidy(n) }),
  }
}
