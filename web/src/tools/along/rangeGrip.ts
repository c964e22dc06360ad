/** Ends and values of what varies along a road, dragged or nudged; a drag shows the road as it would be. */
import type { AlongRow, TrialValues } from '@/api/types'
import type { Workbench } from '@/composables/workbench'
import type { Grip } from '../drag'
import { tidy } from '../tool'

export const ENDS = ['station_from', 'station_to'] as const
export type RangeEnd = (typeof ENDS)[number]
export type RangeValue = 'value' | 'value_to'
/** Station and value of the quantity that is drawn. */
export interface AlongPlace {
  s: number
  v: number
}
type Quantity = NonNullable<TrialValues['quantity']>

const CATCH = 6 // px within which an end is caught by one of another row

/** A dragged end is caught by ends of other rows, by tangent points and the reading mark. */
export function caughtAt(s: number, at: number[], perPixel: number): number {
  const near = at.map((x) => ({ x, away: Math.abs(x - s) })).sort((a, b) => a.away - b.away)[0]
  return near && near.away <= CATCH * perPixel ? near.x : tidy(s, 1)
}

/** An end of a range, no nearer to its other one than a metre; `catches` are stations it is caught at. */
export function endGrip<P>(
  bench: Workbench,
  row: AlongRow,
  end: RangeEnd,
  station: (at: P) => number,
  catches: () => { at: number[]; perPixel: number },
  quantity: () => Quantity | null = () => null,
): Grip<P, number> | null {
  if (!bench.canEdit.value) return null
  const within = (s: number) => (end === 'station_from' ? Math.min(s, row.station_to - 1) : Math.max(s, row.station_from + 1))
  return {
    id: `along-${row.id}-${end}`,
    to: (at) => within(caughtAt(station(at), catches().at, catches().perPixel)),
    tryOut: (s) => bench.tryOut({ variation: { id: row.id, [end]: s }, quantity: quantity() }),
    save: (s) => bench.change('variation', row.id, { [end]: s }),
    back: bench.endTrial,
  }
}
/** A value of an adjustment, up and down. */
export function valueGrip(bench: Workbench, row: AlongRow, name: RangeValue, decimals: number, quantity: () => Quantity | null) {
  if (!bench.canEdit.value) return null
  return {
    id: `along-${row.id}-${name}`,
    to: (at: AlongPlace) => tidy(at.v, decimals),
    tryOut: (v: number) => bench.tryOut({ variation: { id: row.id, [name]: v }, quantity: quantity() }),
    save: (v: number) => bench.change('variation', row.id, { [name]: v }),
    back: bench.endTrial,
  } satisfies Grip<AlongPlace, number>
}
/** An arrow moves an end by a metre, or a value by `step`; with Shift ten times that. */
export function stepAlong(
  bench: Workbench,
  event: KeyboardEvent,
  row: AlongRow,
  name: RangeEnd | RangeValue,
  by: number,
  quantity: () => Quantity | null = () => null,
) {
  if (!by || !bench.canEdit.value) return
  event.preventDefault()
  const first = name === 'station_from' || name === 'station_to' ? row[name] : (row.data as Record<string, number>)[name]!
  bench.bursts.press<number>(
    {
      id: `along-${row.id}-${name}`,
      tryOut: (v) => bench.tryOut({ variation: { id: row.id, [name]: v }, quantity: quantity() }),
      save: async (v) => bench.change('variation', row.id, { [name]: v }),
    },
    (before) => tidy((before ?? first) + by * (event.shiftKey ? 10 : 1), 4),
  )
}
