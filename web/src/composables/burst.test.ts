import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { makeBursts } from './burst'

describe('a burst of arrow presses', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())
  const handle = (id: string) => ({ id, tryOut: vi.fn(), save: vi.fn(() => Promise.resolve()) })
  const more = (before: number | null) => (before ?? 10) + 1

  it('adds up at once and is one act', async () => {
    const bursts = makeBursts(500)
    const pi = handle('pi')
    for (let i = 0; i < 10; i++) bursts.press(pi, more)
    expect(pi.tryOut).toHaveBeenLastCalledWith(20)
    expect(pi.save).not.toHaveBeenCalled()
    await vi.advanceTimersByTimeAsync(501)
    expect(pi.save.mock.calls).toEqual([[20]])
    await vi.advanceTimersByTimeAsync(2000)
    expect(pi.save).toHaveBeenCalledTimes(1)
  })
  it('is saved before another handle is nudged, and before anything else that asks', async () => {
    const bursts = makeBursts()
    const [a, b] = [handle('a'), handle('b')]
    bursts.press(a, more)
    bursts.press(b, more)
    expect(a.save).toHaveBeenCalledWith(11)
    expect(b.save).not.toHaveBeenCalled()
    await bursts.settle()
    expect(b.save).toHaveBeenCalledWith(11)
  })
  it('starts anew after it was saved, and Escape lets it go unsaved', async () => {
    const bursts = makeBursts()
    const pi = handle('pi')
    bursts.press(pi, more)
    await bursts.settle()
    bursts.press(pi, (before) => (before === null ? 100 : -1))
    bursts.again()
    expect(pi.tryOut.mock.calls.at(-1)).toEqual([100])
    expect(bursts.drop()).toBe(true)
    expect(bursts.drop()).toBe(false)
    await vi.advanceTimersByTimeAsync(5000)
    expect(pi.save).toHaveBeenCalledTimes(1)
  })
})
