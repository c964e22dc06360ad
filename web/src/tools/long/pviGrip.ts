/** A PVI that is dragged or nudged: freely, only up or along, or on one of the grades that it had. */
import { shallowRef } from 'vue'
import type { PVIRow } from '@/api/types'
import type { Workbench } from '@/composables/workbench'
import { useLook } from '@/stores/look'
import type { Grip } from '../drag'
import { tidy, type LongPlace } from '../tool'

export interface PviPlace {
  station?: number
  elevation: number
}
interface Snapped extends LongPlace {
  exact: boolean
}

export function usePviGrips(bench: Workbench, snapAt: (at: LongPlace, apart?: number) => Snapped) {
  const look = useLook()
  /** Where the pointer holds the dragged PVI. The picture shows it where the trial put it; this place is drawn only when refused. */
  const held = shallowRef<LongPlace | null>(null)
  /** the crossing that holds it */
  const caught = shallowRef<LongPlace | null>(null)

  /** Where it may go, by the way it is dragged. */
  function led(pvi: PVIRow, at: LongPlace): LongPlace {
    const way = look.pviDrag
    if (way === 'up') return { s: pvi.station, z: at.z }
    if (way === 'along') return { s: at.s, z: pvi.elevation }
    const grade = way === 'in' ? pvi.grade_in : way === 'out' ? pvi.grade_out : null
    return grade === null ? at : { s: at.s, z: pvi.elevation + grade * (at.s - pvi.station) }
  }
  function placeOf(pvi: PVIRow, at: LongPlace): LongPlace {
    const atEnd = ['start', 'end'].includes(pvi.anchor)
    const to = led(pvi, atEnd ? { s: pvi.station, z: at.z } : at)
    caught.value = null
    switch (look.pviDrag) {
      case 'free': {
        const on = snapAt(to, pvi.id)
        if (!on.exact || (atEnd && Math.abs(on.s - pvi.station) > 1e-6))
          return { s: atEnd ? pvi.station : tidy(to.s, 2), z: tidy(on.exact ? to.z : on.z) }
        caught.value = { s: on.s, z: on.z }
        return atEnd ? { s: pvi.station, z: on.z } : { s: on.s, z: on.z }
      }
      case 'up':
        return { s: pvi.station, z: tidy(to.z) }
      case 'along':
        return { s: atEnd ? pvi.station : tidy(to.s, 2), z: tidy(to.z) }
      default: {
        const s = atEnd ? pvi.station : tidy(to.s, 2) // the grade holds exactly at the rounded station
        return { s, z: led(pvi, { s, z: to.z }).z }
      }
    }
  }
  /** Values of a place; an end stays at its station. */
  const values = (pvi: PVIRow, { s, z }: LongPlace): PviPlace =>
    ['start', 'end'].includes(pvi.anchor) ? { elevation: z } : { station: s, elevation: z }

  function gripOf(pvi: PVIRow): Grip<LongPlace, PviPlace> | null {
    if (!bench.canEdit.value) return null
    return {
      id: `pvi-${pvi.id}`,
      to(at) {
        held.value = placeOf(pvi, at)
        return values(pvi, held.value)
      },
      tryOut: (v) => bench.tryOut({ pvi: { id: pvi.id, ...v } }),
      save: (v) => bench.change('pvi', pvi.id, v),
      back: bench.endTrial,
    }
  }
  /** An arrow raises or lowers a PVI by a decimetre, with Shift by a metre, with Ctrl by a centimetre. */
  function step(event: KeyboardEvent, p: PVIRow, up: number) {
    const grip = gripOf(p)
    if (!up || !grip) return
    event.preventDefault()
    const by = event.shiftKey ? 1 : event.ctrlKey ? 0.01 : 0.1
    const save = async (v: PviPlace) => bench.change('pvi', p.id, v, { quiet: true })
    bench.bursts.press<PviPlace>({ id: grip.id, tryOut: grip.tryOut, save }, (before) => ({
      elevation: tidy((before ?? p).elevation + up * by),
    }))
  }
  function over() {
    held.value = null
    caught.value = null
  }
  return { held, caught, gripOf, step, over }
}
