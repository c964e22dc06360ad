/** At most one request in flight, the newest wins: what is asked meanwhile waits, and replaces what waited before. */
export function newest<A, R>(
  run: (asked: A, signal: AbortSignal) => Promise<R>,
  done: (result: R, asked: A) => void,
  failed: (error: unknown, asked: A) => void,
) {
  let busy = false
  let waiting: { asked: A } | null = null
  let generation = 0
  let controller = new AbortController()

  async function go(asked: A) {
    busy = true
    const own = generation
    try {
      const result = await run(asked, controller.signal)
      if (own === generation) done(result, asked)
    } catch (error) {
      if (own === generation && (error as Error).name !== 'AbortError') failed(error, asked)
    }
    busy = false
    if (waiting) {
      const next = waiting.asked
      waiting = null
      void go(next)
    }
  }
  return {
    idle: () => !busy,
    ask(asked: A) {
      if (busy) waiting = { asked }
      else void go(asked)
    },
    /** Forget what is on its way. */
    cancel() {
      generation++
      waiting = null
      controller.abort()
      controller = new AbortController()
    },
  }
}
