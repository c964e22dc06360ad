/** A PI put into the line, or beyond an end of it. */
import { api } from '@/api/client'
import type { Acted } from '@/api/types'
import { useUi } from '@/stores/ui'
import { tidy, type PlanPlace, type Tool } from '../tool'
import type { PlanContext } from './index'

export function addPi({ bench, catchAt }: PlanContext): Tool<PlanPlace> {
  const ui = useUi()
  return {
    id: 'add-pi',
    view: 'plan',
    stage: 'line',
    name: 'Add PI',
    hint: 'Click where the PI should be: on a leg it goes between, beyond an end it extends the line. Esc ends.',
    ready: () => !!bench.road.value,
    aim: (at, press) => catchAt(at, press),
    click({ e, n }) {
      const pis = bench.design.value?.pis ?? []
      const index = placeAmong(pis, e, n)
      const between = [pis[index - 1]?.id ?? null, pis[index]?.id ?? null] // as they are seen; null beyond an end
      return bench.act(() => api.post<Acted>(`/roads/${ui.roadId}/pis`, { between, easting: tidy(e), northing: tidy(n) }))
    },
  }
}
/** Where a new PI belongs: into the nearest leg, or before the start or after the end when it lies beyond. */
export function placeAmong(pis: readonly { easting: number; northing: number }[], e: number, n: number): number {
  if (pis.length < 2) return pis.length
  let best = Infinity
  let index = pis.length
  for (let i = 0; i + 1 < pis.length; i++) {
    const [a, b] = [pis[i]!, pis[i + 1]!]
    const dx = b.easting - a.easting,
      dy = b.northing - a.northing
    const t = ((e - a.easting) * dx + (n - a.northing) * dy) / (dx * dx + dy * dy)
    const c = Math.min(Math.max(t, 0), 1)
    const d = Math.hypot(e - a.easting - c * dx, n - a.northing - c * dy)
    if (d >= best) continue
    best = d
    index = t < 0 && i === 0 ? 0 : t > 1 && i + 2 === pis.length ? pis.length : i + 1
  }
  return index
}
