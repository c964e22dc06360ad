/** Ends and values of what varies along a road: where they may go, what catches them, what an arrow adds. */
import { describe, expect, it, vi, beforeEach } from 'vitest'
import { ref } from 'vue'
import type { AlongRow } from '@/api/types'
import { makeBursts } from '@/composables/burst'
import type { Workbench } from '@/composables/workbench'
import { caughtAt, endGrip, stepAlong, valueGrip } from './rangeGrip'

const press = { x: 0, y: 0, button: 0, ctrl: false, shift: false }
const key = (more: Partial<KeyboardEvent> = {}) => ({ preventDefault: () => {}, shiftKey: false, ...more }) as KeyboardEvent
const row = { id: 7, station_from: 100, station_to: 200, data: { value: 2.5, value_to: 3 } } as unknown as AlongRow
const asked = { side: 'left', part: 'verge', parameter: 'width' } as const
let tried: unknown[], changed: unknown[][], bench: Workbench

beforeEach(() => {
  tried = []
  changed = []
  bench = {
    canEdit: ref(true),
    bursts: makeBursts(10_000),
    endTrial: vi.fn(),
    tryOut: (v: unknown) => tried.push(v),
    change: async (...what: unknown[]) => (changed.push(what), {}),
  } as unknown as Workbench
})
const end = (which: 'station_from' | 'station_to', at: number[] = [], perPixel = 0.5) =>
  endGrip<number>(bench, row, which, (s) => s, () => ({ at, perPixel }), () => asked) // prettier-ignore

describe('an end of a range', () => {
  it('goes to decimetres, and is tried with the quantity that is drawn', () => {
    const grip = end('station_to')!
    const at = grip.to(231.2345, press)
    expect(at).toBe(231.2)
    grip.tryOut(at)
    grip.save!(at)
    expect(tried).toEqual([{ variation: { id: 7, station_to: 231.2 }, quantity: asked }])
    expect(changed).toEqual([['variation', 7, { station_to: 231.2 }]])
  })
  it('is caught by what is near on the screen, and by the nearest of it', () => {
    expect(end('station_from', [152.123, 154.0])!.to(151, press)).toBe(152.123)
    expect(caughtAt(153.9, [152.123, 154.0], 0.5)).toBe(154.0)
    expect(caughtAt(148.96, [152.123], 0.5)).toBe(149) // 6.3 px away
    expect(caughtAt(148.96, [152.123], 1)).toBe(152.123) // 3.2 px away from afar
  })
  it('stays a metre from the other end', () => {
    expect(end('station_from')!.to(250, press)).toBe(199)
    expect(end('station_to', [90])!.to(90, press)).toBe(101)
  })
  it('has no grip where nobody may edit', () => {
    bench.canEdit = ref(false) as never
    expect(end('station_from')).toBeNull()
    expect(valueGrip(bench, row, 'value', 2, () => null)).toBeNull()
  })
})

describe('a value', () => {
  it('goes up and down, rounded as its kind is', () => {
    const grip = valueGrip(bench, row, 'value_to', 2, () => asked)!
    expect(grip.to({ s: 0, v: 3.14159 })).toBe(3.14)
    grip.tryOut(3.14)
    expect(tried).toEqual([{ variation: { id: 7, value_to: 3.14 }, quantity: asked }])
  })
})

describe('arrows', () => {
  it('add up and are saved once, ten times as far with Shift', async () => {
    stepAlong(bench, key(), row, 'station_from', 1)
    stepAlong(bench, key(), row, 'station_from', 1)
    stepAlong(bench, key({ shiftKey: true }), row, 'station_from', -1)
    expect(tried.map((t) => (t as { variation: { station_from: number } }).variation.station_from)).toEqual([101, 102, 92])
    stepAlong(bench, key(), row, 'value', 0.05) // something else: the first is saved
    await bench.bursts.settle()
    expect(changed).toEqual([
      ['variation', 7, { station_from: 92 }],
      ['variation', 7, { value: 2.55 }],
    ])
  })
})
