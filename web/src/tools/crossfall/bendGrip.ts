/** A bend's place or rate that is dragged or nudged on the crossfall diagram; what is dragged is pinned. */
import type { TurnedBend } from '@/api/types'
import type { Workbench } from '@/composables/workbench'
import type { Grip } from '../drag'
import { tidy, type Press } from '../tool'

export const PLACES = ['level_in', 'full_in', 'full_out', 'level_out'] as const
export type BendPlace = (typeof PLACES)[number]
/** Station and crossfall. */
export interface TurnPlace {
  s: number
  rate: number
}
type Values = Partial<Record<BendPlace | 'rate', number>>

const LEAST = 0.001,
  MOST = 0.15

/** `base`: the station from which a bend's places are counted. */
export function bendGrip(
  bench: Workbench,
  b: TurnedBend,
  place: BendPlace,
  base: number,
  from: Pick<Press, 'x' | 'y'>,
): Grip<TurnPlace, Values> | null {
  const pi = b.pi_id
  if (!bench.canEdit.value || pi === null) return null
  let way: '' | 'up' | 'along' = '' // by where it went first
  return {
    id: `bend-${pi}-${place}`,
    to(at, press) {
      way ||= place.startsWith('full') && Math.abs(press.y - from.y) > Math.abs(press.x - from.x) ? 'up' : 'along'
      return way === 'up' ? { rate: Math.min(Math.max(tidy(at.rate), LEAST), MOST) } : { [place]: tidy(at.s - base, 2) }
    },
    tryOut: (values) => bench.tryOut({ bend: { pi_id: pi, ...values } }),
    save: (values) => bench.change('bend', pi, values),
    back: bench.endTrial,
  }
}
/** An arrow turns a bend by a tenth of a per cent or moves its place by a metre; with Shift ten times that. */
export function stepBend(
  bench: Workbench,
  event: KeyboardEvent,
  b: TurnedBend,
  place: BendPlace,
  base: number,
  [along, up]: [number, number],
) {
  const pi = b.pi_id
  if ((!along && !up) || !bench.canEdit.value || pi === null) return
  event.preventDefault()
  const what = up ? 'rate' : place
  const first = up ? b.rate : b[place] - base
  const by = up ? up * (event.shiftKey ? 0.01 : 0.001) : along * (event.shiftKey ? 10 : 1)
  bench.bursts.press<number>(
    {
      id: `bend-${pi}-${what}`,
      tryOut: (v) => bench.tryOut({ bend: { pi_id: pi, [what]: v } }),
      save: async (v) => bench.change('bend', pi, { [what]: v }),
    },
    (before) => tidy((before ?? first) + by, up ? 3 : 2),
  )
}
