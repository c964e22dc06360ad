/** The active road joins the edge of a road that is there: a received line that is clicked, or places clicked along it. */
import { useUi } from '@/stores/ui'
import { makeDraft } from '../draft'
import { tidy, type PlanPlace, type Tool } from '../tool'
import type { PlanContext } from './index'

export function joinEdge({ bench, caught, catchAt }: PlanContext): Tool<PlanPlace> {
  const ui = useUi()
  function join(where: { place?: [number, number]; points?: [number, number][] }) {
    ui.tool = ''
    return bench.join('existing-edges', { side: ui.roadId!, ...where })
  }
  const plain = ({ e, n }: PlanPlace): [number, number] => [tidy(e), tidy(n)]
  const draft = makeDraft<PlanPlace>(
    (a, b) => Math.hypot(a.e - b.e, a.n - b.n),
    0.05,
    2,
    (points) => join({ points: points.map(plain) }),
  )
  return {
    id: 'join-edge',
    view: 'plan',
    stage: 'junctions',
    name: 'Join edge',
    ready: () => bench.road.value !== null && !['return', 'existing'].includes(bench.road.value.course.kind ?? ''),
    hint: 'Click the received edge that this road joins; or, where none is drawn, click along it. Enter or a double click ends it.',
    aim: (at, press) => catchAt(at, press),
    click(at) {
      if (caught.value && !draft.points.value.length) return join({ place: plain(at) })
      draft.add(at)
    },
    finish: draft.finish,
    takeBack: draft.takeBack,
    cancel: draft.cancel,
    drawn: () => draft.points.value,
  }
}
