/** Stepping from section to section along the road. */
import { useUi } from '@/stores/ui'
import { useWorkbench } from './workbench'

export function useSteps() {
  const bench = useWorkbench()
  const ui = useUi()
  /** The nth section after (or before) the reading mark; without sections, steps of the road's interval. */
  function step(by: number) {
    const stations = bench.design.value?.earthwork?.station
    if (!stations?.length) return bench.setMark(ui.mark + by * (bench.road.value?.interval ?? 10))
    const here = by > 0 ? stations.findIndex((s) => s > ui.mark + 1e-3) : stations.findLastIndex((s) => s < ui.mark - 1e-3)
    const index = here < 0 ? (by > 0 ? stations.length - 1 : 0) : here + (by > 0 ? by - 1 : by + 1)
    bench.setMark(stations[Math.min(Math.max(index, 0), stations.length - 1)]!)
  }
  return { step }
}
