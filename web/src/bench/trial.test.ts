import { createPinia, setActivePinia } from 'pinia'
import { shallowRef } from 'vue'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import type { RoadDesign, TrialValues } from '@/api/types'
import { useUi } from '@/stores/ui'

const asked: { pvi: { elevation: number }; judged: boolean; joined: boolean }[] = []
let slow: Promise<void> | null = null // what comes behind the first line of answers
let late: Promise<void> | null = null // the shape, behind what leads
let failing = false
vi.mock('@/api/client', () => ({
  api: {
    lines: async function* (_: string, body: (typeof asked)[number]) {
      asked.push(body)
      yield JSON.stringify({ pvis: [body.pvi.elevation] })
      if (late) await late
      yield JSON.stringify({ tried: body.pvi.elevation, problems: failing ? { road: {} } : {} })
      if (body.joined && slow) await slow
    },
  },
}))
const { useTrial } = await import('./trial')
const values = (elevation: number) => ({ pvi: { id: 1, elevation } }) as unknown as TrialValues

beforeEach(() => {
  setActivePinia(createPinia())
  useUi().roadId = 7
  asked.length = 0
  vi.useFakeTimers()
})
afterEach(() => void vi.useRealTimers())

function dragged() {
  const trial = shallowRef<RoadDesign | null>(null)
  const saved = shallowRef({ key: 'k', pis: [], findings: [], departures: [], problems: {} } as unknown as RoadDesign)
  const shown = () => (trial.value as unknown as { tried: number } | null)?.tried
  const moved = () => (trial.value as unknown as { pvis: number[] } | null)?.pvis[0]
  return { ...useTrial(trial, saved, { askNear: () => undefined, endNear: () => undefined }), shown, moved }
}

it('is never put back to an older place while a drag goes on slowly', async () => {
  const { tryOut, shown } = dragged()
  for (const [wait, z] of [[0, 1], [100, 2], [150, 3], [90, 4], [250, 5]] as const) {
    await vi.advanceTimersByTimeAsync(wait)
    tryOut(values(z))
    await vi.advanceTimersByTimeAsync(0)
    expect(shown()).toBe(z)
  } // prettier-ignore
  await vi.advanceTimersByTimeAsync(2000)
  expect(shown()).toBe(5)
  const places = asked.map((a) => a.pvi.elevation)
  expect(places).toEqual([...places].sort((a, b) => a - b))
})

it('asks for junctions in one answer at a time, and at the end for the place it rests at', async () => {
  let done = () => {}
  slow = new Promise((r) => (done = r))
  const { tryOut, shown, endTrial } = dragged()
  for (const z of [1, 2, 3]) {
    tryOut(values(z))
    await vi.advanceTimersByTimeAsync(250)
    expect(shown()).toBe(z)
  }
  expect(asked.filter((a) => a.joined).map((a) => a.pvi.elevation)).toEqual([1])
  slow = null
  done()
  await vi.advanceTimersByTimeAsync(1000)
  expect(asked.filter((a) => a.joined).map((a) => a.pvi.elevation)).toEqual([1, 3])
  const count = asked.length
  await vi.advanceTimersByTimeAsync(3000)
  expect(asked).toHaveLength(count)
  endTrial()
})

it('shows what the hand moves ahead of what follows from it, and nothing of a drag that has ended or over what failed', async () => {
  let done = () => {}
  const { tryOut, endTrial, shown, moved } = dragged()
  const hold = () => (late = new Promise((r) => (done = r)))
  const release = async () => (done(), await vi.advanceTimersByTimeAsync(300))
  hold()
  tryOut(values(1))
  await vi.advanceTimersByTimeAsync(20)
  expect([moved(), shown()]).toEqual([1, undefined])
  failing = true
  await release()
  expect([moved(), shown()]).toEqual([1, 1])
  hold()
  tryOut(values(2))
  await vi.advanceTimersByTimeAsync(20)
  expect(moved()).toBe(1) // the last place failed, and says so until the next shape
  failing = false
  await release()
  expect([moved(), shown()]).toEqual([2, 2])
  hold()
  tryOut(values(3))
  endTrial()
  await release()
  expect(moved()).toBeUndefined()
  late = null
})

it('judges the place it rests at once, and asks no more', async () => {
  const { tryOut, endTrial } = dragged()
  tryOut(values(1))
  await vi.advanceTimersByTimeAsync(50)
  tryOut(values(2))
  await vi.advanceTimersByTimeAsync(3000)
  const of2 = asked.filter((a) => a.pvi.elevation === 2)
  expect(of2.filter((a) => a.judged)).toHaveLength(1)
  expect(asked.length).toBeLessThanOrEqual(3)
  tryOut(values(3))
  endTrial()
  await vi.advanceTimersByTimeAsync(3000)
  expect(asked.filter((a) => a.pvi.elevation === 3).length).toBeLessThanOrEqual(1)
})

it('counts as resting from when its shape is there, not while that is still worked out', async () => {
  let done = () => {}
  const { tryOut, endTrial } = dragged()
  tryOut(values(1))
  await vi.advanceTimersByTimeAsync(50)
  late = new Promise((r) => (done = r))
  tryOut(values(2)) // too soon for findings
  await vi.advanceTimersByTimeAsync(3000)
  expect(asked.map((a) => a.pvi.elevation)).toEqual([1, 2])
  late = null
  done()
  await vi.advanceTimersByTimeAsync(100)
  expect(asked).toHaveLength(2) // else the next place would have to wait for this one's whole answer
  await vi.advanceTimersByTimeAsync(200)
  expect(asked.map((a) => [a.pvi.elevation, a.judged])).toEqual([[1, true], [2, false], [2, true]]) // prettier-ignore
  endTrial()
})
