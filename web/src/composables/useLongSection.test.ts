import { describe, expect, it } from 'vitest'
import { nextTick, ref, shallowRef } from 'vue'
import { bandInterval, useLongSection } from './useLongSection'
import type { Workbench } from './workbench'

function section() {
  const limits = ref<[number, number]>([0, 2000])
  const saved = shallowRef({
    ground: [
      [0, 50],
      [1000, 60],
      [2000, 40],
    ],
    levels: {
      points: [
        [0, 50, 0],
        [2000, 45, 0],
      ],
    },
    pvis: [],
  })
  const road = ref<{ course: { kind?: string } } | null>(null)
  const bench = { limits, saved, design: saved, road } as unknown as Workbench
  const size = ref({ width: 1000, height: 300 })
  return { limits, size, road, long: useLongSection(bench, size, 3) }
}

describe('the long section', () => {
  it('shows the whole line at the chosen exaggeration', () => {
    const { long } = section()
    expect(long.domain.value).toEqual([0, 2000])
    expect(long.steeper.value).toBeCloseTo(10, 6)
    expect(long.x.value(0)).toBe(long.plot.value.x0)
    expect(long.x.value.invert(long.x.value(1234))).toBeCloseTo(1234, 6)
  })
  it('finds the exaggeration at which all levels fit', () => {
    const { long } = section()
    long.exaggeration.value = 'fit'
    const [low, high] = long.y.value.domain() as [number, number]
    expect(low).toBeLessThan(40)
    expect(high).toBeGreaterThan(60)
  })
  it('shows a return as it fits, without the ground far below it', () => {
    const { long, road } = section()
    const chosen = long.exaggeration.value
    road.value = { course: { kind: 'return' } }
    expect(long.exaggeration.value).toBe('fit')
    const [low, high] = long.y.value.domain() as [number, number]
    expect([low > 44, high < 51]).toEqual([true, true])
    road.value = null
    expect(long.exaggeration.value).toBe(chosen)
  })
  it('holds the station under the pointer while zooming, and never leaves the road behind', () => {
    const { long } = section()
    const before = long.x.value(500)
    long.zoom(500, 0.5)
    expect(long.x.value(500)).toBeCloseTo(before, 6)
    expect(long.domain.value[1] - long.domain.value[0]).toBeCloseTo(1000, 6)
    long.zoom(500, 100)
    expect(long.domain.value).toEqual([0, 2000])
  })
  it('follows a line that grows while the whole of it is shown, and stays where it was zoomed', async () => {
    const { long, limits } = section()
    limits.value = [0, 2500]
    await nextTick()
    expect(long.domain.value).toEqual([0, 2500])
    long.zoom(500, 0.2)
    const zoomed = [...long.domain.value]
    limits.value = [0, 2600]
    await nextTick()
    expect(long.domain.value).toEqual(zoomed)
  })
  it('spaces its columns at a round interval', () => {
    expect([bandInterval(2), bandInterval(0.1), bandInterval(0.5)]).toEqual([200, 10, 50])
  })
})
