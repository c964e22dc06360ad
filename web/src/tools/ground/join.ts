/** A new breakline through points. */
import { makeDraft } from '../draft'
import type { PlanPlace, Tool } from '../tool'
import type { GroundWork } from './index'

type Vertex = [number, number, number | null] // level null where there is no ground

export function join(on: GroundWork): Tool<PlanPlace> {
  const draft = makeDraft<Vertex>(
    (a, b) => Math.hypot(a[0] - b[0], a[1] - b[1]),
    0.05,
    2,
    (vertices) => {
      if (vertices.every((v): v is [number, number, number] => v[2] !== null)) return on.ground.edit([{ do: 'add_line', vertices }])
      return on.told.tell('A breakline needs a level at every vertex; one of these lies outside the ground.', { kind: 'wrong' })
    },
  )
  return {
    id: 'join',
    view: 'plan',
    stage: 'ground',
    name: 'Join points',
    ready: on.there,
    hint: 'Click points to join them by a new breakline. Enter or a double click ends it, Esc leaves it.',
    async click({ e, n }) {
      const near = await on.nearest({ e, n })
      draft.add(near ? near.place : [e, n, await on.levelAt({ e, n })])
    },
    finish: draft.finish,
    takeBack: draft.takeBack,
    cancel: draft.cancel,
    drawn: () => draft.points.value.map(([e, n]) => ({ e, n })),
  }
}
