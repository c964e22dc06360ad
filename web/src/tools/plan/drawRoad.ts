/** A new road, drawn by its points of intersection. */
import { api } from '@/api/client'
import type { Acted } from '@/api/types'
import { useUi } from '@/stores/ui'
import { makeDraft } from '../draft'
import { tidy, type PlanPlace, type Tool } from '../tool'
import type { PlanContext } from './index'

export function drawRoad({ bench, catchAt }: PlanContext): Tool<PlanPlace> {
  const ui = useUi()
  const draft = makeDraft<PlanPlace>(
    (a, b) => Math.hypot(a.e - b.e, a.n - b.n),
    0.5,
    2,
    async (points) => {
      const pis = points.map(({ e, n }) => ({ easting: tidy(e), northing: tidy(n) }))
      const name = `Road ${(bench.project.value?.roads.length ?? 0) + 1}`
      const done = await bench.act(() => api.post<Acted>(`/projects/${bench.projectId}/roads`, { name, pis }))
      if (done?.road_id) ui.roadId = done.road_id
    },
  )
  return {
    id: 'draw-road',
    view: 'plan',
    stage: 'line',
    name: 'Draw road',
    hint: 'Click the points of intersection. Enter or a double click ends the line, Esc leaves it.',
    aim: (at, press) => catchAt(at, press, { last: draft.points.value.at(-1) }),
    click: (at) => draft.add(at),
    finish() {
      ui.tool = ''
      return draft.finish()
    },
    takeBack: draft.takeBack,
    cancel: draft.cancel,
    drawn: () => draft.points.value,
  }
}
