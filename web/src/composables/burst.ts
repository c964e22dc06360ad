/**
 * Presses of an arrow key on a handle: they add up at once, as a trial, and are saved as one act when they pause or anything else is
 * done.
 */

export interface Burst<V> {
  /** what is nudged; a press on something else saves this one first */
  id: string
  tryOut: (values: V) => void
  save: (values: V) => Promise<unknown>
}

export function makeBursts(pause = 600) {
  let now: { burst: Burst<unknown>; values: unknown } | null = null
  let saving: Promise<unknown> = Promise.resolve()
  let timer: ReturnType<typeof setTimeout> | undefined

  /** One press: `add` gives the values after it, from those of the presses before, or null for the first. */
  function press<V>(burst: Burst<V>, add: (before: V | null) => V): void {
    if (now && now.burst.id !== burst.id) void settle()
    const values = add((now?.values as V | undefined) ?? null)
    now = { burst: burst as Burst<unknown>, values }
    burst.tryOut(values)
    clearTimeout(timer)
    timer = setTimeout(() => void settle(), pause)
  }
  /** Save what was nudged; resolves when it is saved, and at once when nothing was. */
  function settle(): Promise<unknown> {
    clearTimeout(timer)
    const done = now
    now = null
    if (done) saving = done.burst.save(done.values)
    return saving
  }
  /** Let go of it without saving; whether there was anything. */
  function drop(): boolean {
    clearTimeout(timer)
    const was = now !== null
    now = null
    return was
  }
  /** Show it again, after something else has ended the trial. */
  const again = () => now && now.burst.tryOut(now.values)
  return { press, settle, drop, again }
}
