/** The ground under a line that is drawn. */
import { useUi } from '@/stores/ui'
import { makeDraft } from '../draft'
import type { PlanPlace, Tool } from '../tool'
import type { GroundWork } from './index'
import { apart } from './labelPath'

/** `through`: in the junctions stage it also shows what is built, through all pieces. */
export function groundSection(on: GroundWork, through = false): Tool<PlanPlace> {
  const ui = useUi()
  const draft = makeDraft<PlanPlace>(apart, 0.05, 2, async (places) => {
    ui.tool = ''
    await on.cutAlong(
      places.map(({ e, n }) => [e, n]),
      through,
    )
  })
  return {
    id: through ? 'finished-section' : 'ground-section',
    view: 'plan',
    stage: through ? 'junctions' : 'ground',
    name: 'Cut section',
    looks: true,
    ready: on.there,
    hint: through
      ? 'Click along a line to see finished and existing ground under it. Enter or a double click ends it.'
      : 'Click along a line to see the ground under it. Enter or a double click ends it.',
    click: draft.add,
    finish: draft.finish,
    takeBack: draft.takeBack,
    cancel: draft.cancel,
    drawn: () => draft.points.value,
  }
}
