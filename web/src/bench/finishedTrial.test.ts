import { createPinia, setActivePinia } from 'pinia'
import { ref } from 'vue'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import type { Project } from '@/api/types'
import { useUi } from '@/stores/ui'

const packed = vi.fn()
vi.mock('@/api/client', () => ({ api: { packed: (...given: unknown[]) => packed(...given) } }))
const { useFinishedTrial } = await import('./finishedTrial')

beforeEach(() => {
  setActivePinia(createPinia())
  useUi().stage = 'junctions'
  packed.mockReset().mockImplementation(async (_: string, body: { z: number }) => ({ header: body }))
  vi.useFakeTimers()
})
afterEach(() => void vi.useRealTimers())

let onItsWay = false // a newer place of the drag
function dragged(head = '7') {
  onItsWay = false
  const project = ref({ ledger: { head } } as Project)
  const near = useFinishedTrial(project)
  const askNear = (path: string, body: unknown) => near.askNear(path, body, () => !onItsWay)
  return { ...near, askNear, project, shown: () => (near.finishedNear.value?.packed.header as unknown as { z: number } | undefined)?.z }
}

it('is asked for when the pointer rests, for the place it rests at', async () => {
  const { askNear, shown } = dragged()
  for (const z of [1, 2, 3]) {
    askNear('/junctions/4/trial', { z })
    await vi.advanceTimersByTimeAsync(60)
  }
  expect(packed).not.toHaveBeenCalled()
  await vi.advanceTimersByTimeAsync(60)
  expect(packed).toHaveBeenCalledOnce()
  expect(packed.mock.calls[0]![0]).toMatch(/^\/junctions\/4\/trial\/finished\?interval=/)
  expect(shown()).toBe(3)
})

it('is not asked for while a newer place is on its way, however slow that comes', async () => {
  const { askNear, shown } = dragged()
  askNear('/junctions/4/trial', { z: 1 })
  onItsWay = true
  await vi.advanceTimersByTimeAsync(900)
  expect(packed).not.toHaveBeenCalled()
  onItsWay = false
  askNear('/junctions/4/trial', { z: 2 })
  await vi.advanceTimersByTimeAsync(100)
  expect(shown()).toBe(2)
})

it('is not asked for where it is not seen', async () => {
  useUi().stage = 'levels'
  const { askNear } = dragged()
  askNear('/roads/1/trial', { z: 1 })
  await vi.advanceTimersByTimeAsync(500)
  expect(packed).not.toHaveBeenCalled()
})

it('goes with a drag that is given up, and stays after an act until the whole is there', async () => {
  const { askNear, endNear, shown, project } = dragged()
  askNear('/junctions/4/trial', { z: 5 })
  await vi.advanceTimersByTimeAsync(200)
  endNear()
  expect(shown()).toBeUndefined()
  askNear('/junctions/4/trial', { z: 6 })
  await vi.advanceTimersByTimeAsync(200)
  project.value = { ledger: { head: '8' } } as Project
  endNear()
  expect(shown()).toBe(6)
})

it('is not shown when it comes after the drag, and keeps the last one when it cannot be made', async () => {
  const { askNear, endNear, shown } = dragged()
  askNear('/junctions/4/trial', { z: 1 })
  await vi.advanceTimersByTimeAsync(200)
  packed.mockRejectedValueOnce(new Error('crosses'))
  askNear('/junctions/4/trial', { z: 2 })
  await vi.advanceTimersByTimeAsync(200)
  expect(shown()).toBe(1)
  let come: (value: unknown) => void = () => {}
  packed.mockReturnValueOnce(new Promise((r) => (come = r)))
  askNear('/junctions/4/trial', { z: 3 })
  await vi.advanceTimersByTimeAsync(200)
  endNear()
  come({ header: { z: 3 } })
  await vi.advanceTimersByTimeAsync(10)
  expect(shown()).toBeUndefined()
  askNear('/junctions/4/trial', { z: 4 })
  endNear() // before it has rested
  await vi.advanceTimersByTimeAsync(500)
  expect(packed).toHaveBeenCalledTimes(3)
})
