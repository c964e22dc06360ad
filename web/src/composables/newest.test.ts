import { describe, expect, it, vi } from 'vitest'
import { newest } from './newest'

function deferred<T>() {
  let resolve!: (v: T) => void
  const promise = new Promise<T>((r) => (resolve = r))
  return { promise, resolve }
}

describe('newest', () => {
  it('keeps one request in flight and then runs only the last one asked', async () => {
    const started: number[] = []
    const done: number[] = []
    const gates = new Map<number, ReturnType<typeof deferred<number>>>()
    const n = newest<number, number>(
      (asked) => {
        started.push(asked)
        gates.set(asked, deferred<number>())
        return gates.get(asked)!.promise
      },
      (r) => done.push(r),
      () => done.push(-1),
    )
    n.ask(1)
    n.ask(2)
    n.ask(3)
    expect(started).toEqual([1])
    gates.get(1)!.resolve(1)
    await vi.waitFor(() => expect(started).toEqual([1, 3]))
    gates.get(3)!.resolve(3)
    await vi.waitFor(() => expect(done).toEqual([1, 3]))
  })

  it('drops the answer of what was cancelled', async () => {
    const done: number[] = []
    const gate = deferred<number>()
    const n = newest<number, number>(
      (asked) => (asked === 1 ? gate.promise : Promise.resolve(asked)),
      (r) => done.push(r),
      () => done.push(-1),
    )
    n.ask(1)
    n.cancel()
    gate.resolve(1)
    n.ask(2) // what is asked after it is answered, and it alone
    await vi.waitFor(() => expect(done).toEqual([2]))
  })
})
