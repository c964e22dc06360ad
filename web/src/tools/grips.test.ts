/** Handles: where each may go, what that means, and what an arrow adds. */
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, ref, shallowRef } from 'vue'
import type { PIRow, PVIRow, TurnedBend } from '@/api/types'
import type { Snap } from '@/canvas/shared/snap'
import { makeBursts } from '@/composables/burst'
import type { Workbench } from '@/composables/workbench'
import { useLook } from '@/stores/look'
import { bendGrip, stepBend } from './crossfall/bendGrip'
import { usePviGrips } from './long/pviGrip'
import type { PlanContext } from './plan'
import { usePiGrips } from './plan/piGrip'

const press = (x = 0, y = 0) => ({ x, y, button: 0, ctrl: false, shift: false })
const key = (more: Partial<KeyboardEvent> = {}) => ({ preventDefault: () => {}, shiftKey: false, ctrlKey: false, ...more }) as KeyboardEvent
let tried: unknown[], changed: unknown[][], bench: Workbench
const pis = [
  { id: 1, easting: 0, northing: 0, held: false, straight_held: false },
  { id: 2, easting: 100, northing: 50, held: false, straight_held: false },
  { id: 3, easting: 200, northing: 0, held: true, straight_held: false },
] as PIRow[]

beforeEach(() => {
  setActivePinia(createPinia())
  tried = []
  changed = []
  bench = {
    canEdit: ref(true),
    design: computed(() => ({ pis })),
    bursts: makeBursts(10_000),
    endTrial: vi.fn(),
    tryOut: (v: unknown) => tried.push(v),
    change: async (...what: unknown[]) => (changed.push(what), {}),
  } as unknown as Workbench
})

describe('a PI', () => {
  const grips = (caughtAt?: { e: number; n: number }) =>
    usePiGrips({ bench, caught: shallowRef<Snap | null>(null), catchAt: (at: unknown) => caughtAt ?? at } as unknown as PlanContext)

  it('goes where it is held, to the millimetre, or where it is caught', () => {
    const grip = grips().gripOf(1)!
    const at = grip.to({ e: 101.23456, n: 49.9 }, press())
    expect(at).toEqual({ easting: 101.235, northing: 49.9 })
    grip.tryOut(at)
    grip.save!(at)
    expect(tried).toEqual([{ pi: { index: 1, easting: 101.235, northing: 49.9 } }])
    expect(changed).toEqual([['pi', 2, { easting: 101.235, northing: 49.9 }]])
    expect(grips({ e: 7, n: 8 }).gripOf(1)!.to({ e: 6.9, n: 8.2 }, press())).toEqual({ easting: 7, northing: 8 })
  })
  it('has no grip where it is held, lies between two held straights, or nobody may edit', () => {
    expect(grips().gripOf(2)).toBeNull()
    pis[0]!.straight_held = pis[1]!.straight_held = true
    expect(grips().gripOf(1)).toBeNull()
    pis[0]!.straight_held = pis[1]!.straight_held = false
    bench.canEdit = ref(false) as never
    expect(grips().gripOf(1)).toBeNull()
  })
  it('is moved by arrows that add up, by ten and by a tenth with Shift and Ctrl, and saved once', async () => {
    const { step } = grips()
    for (const e of [key(), key(), key({ shiftKey: true }), key({ ctrlKey: true })]) step(e, 1, [1, 0])
    step(key(), 1, [0, -1])
    expect(tried.at(-1)).toEqual({ pi: { index: 1, easting: 112.1, northing: 49 } })
    await bench.bursts.settle()
    expect(changed).toEqual([['pi', 2, { easting: 112.1, northing: 49 }, { quiet: true }]])
  })
})

describe('a PVI', () => {
  const pvi = { id: 5, station: 100, elevation: 60, anchor: 'station', grade_in: 0.02, grade_out: -0.03 } as PVIRow
  const end = { ...pvi, id: 6, anchor: 'end' } as PVIRow
  const nowhere = (at: { s: number; z: number }) => ({ ...at, exact: false })
  const crossing = () => ({ s: 104.123456, z: 61.98765, exact: true })
  const to = (
    p: PVIRow,
    at: { s: number; z: number },
    snap: (at: { s: number; z: number }) => { s: number; z: number; exact: boolean } = nowhere,
  ) => usePviGrips(bench, snap).gripOf(p)!.to(at, press())

  it('is dragged freely, up, along, or on one of the grades it had', () => {
    const look = useLook()
    expect(to(pvi, { s: 103.4567, z: 61.23456 })).toEqual({ station: 103.46, elevation: 61.235 })
    look.pviDrag = 'up'
    expect(to(pvi, { s: 180, z: 61.5 })).toEqual({ station: 100, elevation: 61.5 })
    look.pviDrag = 'along'
    expect(to(pvi, { s: 120.126, z: 90 })).toEqual({ station: 120.13, elevation: 60 })
    look.pviDrag = 'in'
    expect(to(pvi, { s: 110.004, z: 0 })).toEqual({ station: 110, elevation: 60.2 })
    look.pviDrag = 'out'
    expect(to(pvi, { s: 90, z: 0 })).toEqual({ station: 90, elevation: 60.3 })
  })
  it('is exact on a crossing of guides; an end stays at its station', () => {
    expect(to(pvi, { s: 104, z: 62 }, crossing)).toEqual({ station: 104.123456, elevation: 61.98765 })
    expect(to(end, { s: 104, z: 62 })).toEqual({ elevation: 62 })
    expect(to(end, { s: 104, z: 62 }, crossing)).toEqual({ elevation: 62 })
    expect(to(end, { s: 100, z: 62 }, () => ({ s: 100, z: 61.98765, exact: true }))).toEqual({ elevation: 61.98765 })
  })
  it('rises by a decimetre an arrow', () => {
    const { step } = usePviGrips(bench, nowhere)
    for (const e of [key(), key({ shiftKey: true }), key({ ctrlKey: true })]) step(e, pvi, 1)
    step(key(), pvi, -1)
    expect(tried.at(-1)).toEqual({ pvi: { id: 5, elevation: 61.01 } })
  })
})

describe('a bend on the crossfall diagram', () => {
  const bend = { pi: 1, pi_id: 2, rate: 0.05, level_in: 80, full_in: 120, full_out: 200, level_out: 240 } as TurnedBend

  it('goes along or up by where it went first, and stays that way', () => {
    const grip = bendGrip(bench, bend, 'full_in', 100, press(50, 50))!
    expect(grip.to({ s: 125, rate: 0.08 }, press(52, 40))).toEqual({ rate: 0.08 })
    expect(grip.to({ s: 190, rate: 0.3 }, press(200, 41))).toEqual({ rate: 0.15 }) // the greatest that can be drawn
    const along = bendGrip(bench, bend, 'full_in', 100, press(50, 50))!
    expect(along.to({ s: 125.678, rate: 0.08 }, press(70, 45))).toEqual({ full_in: 25.68 })
    const level = bendGrip(bench, bend, 'level_in', 100, press(50, 50))!
    expect(level.to({ s: 90, rate: 0.08 }, press(50, 10))).toEqual({ level_in: -10 }) // level is level
  })
  it('is turned by a tenth of a per cent and moved by a metre an arrow', async () => {
    stepBend(bench, key(), bend, 'full_in', 100, [0, 1])
    stepBend(bench, key(), bend, 'full_in', 100, [0, 1])
    expect(tried.at(-1)).toEqual({ bend: { pi_id: 2, rate: 0.052 } })
    stepBend(bench, key({ shiftKey: true }), bend, 'full_in', 100, [-1, 0])
    expect(tried.at(-1)).toEqual({ bend: { pi_id: 2, full_in: 10 } })
    await bench.bursts.settle()
    expect(changed).toEqual([
      ['bend', 2, { rate: 0.052 }],
      ['bend', 2, { full_in: 10 }],
    ])
  })
})
