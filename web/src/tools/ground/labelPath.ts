/** A line along which contours get their labels. */
import { useUi } from '@/stores/ui'
import { makeDraft } from '../draft'
import type { PlanPlace, Tool } from '../tool'
import type { GroundWork } from './index'

export const apart = (a: PlanPlace, b: PlanPlace) => Math.hypot(a.e - b.e, a.n - b.n)

export function labelPath(on: GroundWork): Tool<PlanPlace> {
  const ui = useUi()
  const draft = makeDraft<PlanPlace>(apart, 0.05, 2, (points) => {
    ui.tool = ''
    const { id, label_paths } = on.surface.value!
    return on.bench.change('surface', id, { label_paths: [...label_paths, points.map(({ e, n }) => [e, n] as [number, number])] })
  })
  return {
    id: 'label-path',
    view: 'plan',
    stage: 'ground',
    name: 'Label path',
    ready: on.there,
    hint: 'Click along the path; contours get a label where they cross it. Enter or a double click ends it.',
    click: draft.add,
    finish: draft.finish,
    takeBack: draft.takeBack,
    cancel: draft.cancel,
    drawn: () => draft.points.value,
  }
}
