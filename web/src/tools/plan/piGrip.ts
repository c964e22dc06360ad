/** A PI that is dragged or nudged. */
import { shallowRef } from 'vue'
import type { Grip } from '../drag'
import { tidy, type PlanPlace } from '../tool'
import type { PlanContext } from './index'

export interface Easting {
  easting: number
  northing: number
}

export function usePiGrips({ bench, caught, catchAt }: PlanContext) {
  /** Where the pointer holds the dragged PI; drawn only when the trial there is refused. */
  const held = shallowRef<{ index: number; at: Easting } | null>(null)
  /** The grip of a PI by its place in the line; null where it may not be moved. */
  function gripOf(index: number): Grip<PlanPlace, Easting> | null {
    const pis = bench.design.value?.pis ?? []
    const p = pis[index]
    const id = p?.id ?? null
    const between = p?.straight_held && pis[index - 1]?.straight_held // two held straights leave it no way to go
    if (!p || id === null || !bench.canEdit.value || p.held || between) return null
    return {
      id: `pi-${id}`,
      to(at, press) {
        const { e, n } = catchAt(at, press, { marked: true }) // a line is only followed where one is drawn
        held.value = { index, at: { easting: tidy(e), northing: tidy(n) } }
        return held.value.at
      },
      tryOut: (at) => bench.tryOut({ pi: { index, ...at } }),
      save: (at) => bench.change('pi', id, at),
      back: bench.endTrial,
    }
  }
  /** An arrow moves a PI by a metre, with Shift by ten, with Ctrl by a tenth. */
  function step(event: KeyboardEvent, index: number, [east, north]: [number, number]) {
    const grip = gripOf(index)
    const p = bench.design.value?.pis[index]
    if (!grip || !p) return
    event.preventDefault()
    const by = event.shiftKey ? 10 : event.ctrlKey ? 0.1 : 1
    const save = async (at: Easting) => bench.change('pi', p.id!, at, { quiet: true })
    bench.bursts.press<Easting>({ id: grip.id, tryOut: grip.tryOut, save }, (before) => ({
      easting: tidy((before ?? p).easting + east * by),
      northing: tidy((before ?? p).northing + north * by),
    }))
  }
  function over() {
    held.value = null
    caught.value = null
  }
  return { held, gripOf, step, over }
}
