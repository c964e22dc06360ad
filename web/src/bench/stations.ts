/** Chainages of the active road as people read and type them, and the reading mark. */
import { computed, watch, type Ref } from 'vue'
import type { Project, RoadDesign, RoadRow } from '@/api/types'
import { countedAt, stationsOf } from '@/lib/chainage'
import { formatStation } from '@/lib/format'
import { units } from '@/lib/units'
import { useUi } from '@/stores/ui'

export function useStations(project: Ref<Project | null>, road: Ref<RoadRow | null>, design: Ref<RoadDesign | null>) {
  const ui = useUi()
  const style = computed(() => {
    const settings = project.value?.settings
    return { group: settings?.chainage_group ?? 1000, word: settings?.chainage_word ?? 'Chainage' }
  })
  const equations = computed(() => road.value?.equations ?? [])
  const limits = computed<[number, number]>(() => {
    const line = design.value?.line
    return line ? [line.start, line.end] : [0, 0]
  })
  /** A station as people read it, with the road's chainage equations. */
  const station = (s: number, decimals = 2) => formatStation(countedAt(s, equations.value) / units.value.metre, style.value, decimals)
  /** The station of a typed chainage: of two places with the same chainage the one nearer to the reading mark; null in a gap. */
  function stationOf(chainage: number): number | null {
    if (!equations.value.length) return chainage
    const [a, b] = limits.value
    const found = stationsOf(chainage, equations.value, [a, b])
    if (found.length) return found.reduce((best, s) => (Math.abs(s - ui.mark) < Math.abs(best - ui.mark) ? s : best))
    const [first, last] = [countedAt(a, equations.value), countedAt(b, equations.value)]
    return chainage > first && chainage < last ? null : chainage <= a ? chainage : chainage - (last - b)
  }
  function setMark(s: number) {
    const [a, b] = limits.value
    if (b > a && Number.isFinite(s)) ui.mark = Math.min(Math.max(s, a), b)
  }
  watch(limits, () => setMark(ui.mark))
  return { style, equations, limits, station, stationOf, setMark }
}
