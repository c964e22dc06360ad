/** The ground under a line that is drawn. */
import type { GroundCut } from '@/api/types'
import { useUi } from '@/stores/ui'
import { makeDraft } from '../draft'
import type { PlanPlace, Tool } from '../tool'
import type { GroundWork } from './index'
import { apart } from './labelPath'

export function groundSection(on: GroundWork): Tool<PlanPlace> {
  const ui = useUi()
  const draft = makeDraft<PlanPlace>(apart, 0.05, 2, async (places) => {
    const path = places.map(({ e, n }) => [e, n] as [number, number])
    const got = await on.ask<GroundCut>(`ground-section?path=${path.map((p) => p.join(',')).join(';')}`)
    on.section.value = got ? { path, points: got.points } : null
    ui.tool = ''
  })
  return {
    id: 'ground-section',
    view: 'plan',
    stage: 'ground',
    name: 'Section',
    looks: true,
    ready: on.there,
    hint: 'Click along a line to see the ground under it. Enter or a double click ends it.',
    click: draft.add,
    finish: draft.finish,
    takeBack: draft.takeBack,
    cancel: draft.cancel,
    drawn: () => draft.points.value,
  }
}
