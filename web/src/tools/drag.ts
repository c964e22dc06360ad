/** One way to press, drag, click and let go, for every view: what is held is a grip, and what is not held is panned. */
import { shallowRef } from 'vue'
import type { Burst } from '@/composables/burst'
import type { Press } from './tool'

const CLICK = 4 // px the pointer may stray and still click

/** Something that can be held. `V` are the values a place of the pointer means for it. */
export interface Grip<P, V = unknown> {
  id: string
  to: (at: P, press: Press) => V
  /** shown while it is held */
  tryOut: (values: V) => void
  /** let go after a move; without it nothing is saved */
  save?: (values: V) => unknown
  /** what was shown is taken back */
  back?: () => void
}
/** A grip of any values; its own functions fit one another. */
// eslint-disable-next-line @typescript-eslint/no-explicit-any
export type AnyGrip<P> = Grip<P, any>

export interface DragOptions<P> {
  place: (press: Press) => P
  /** the empty view is dragged, px */
  pan?: (dx: number, dy: number) => void
  /** pressed and let go at one place; `grip` is what stands there */
  click?: (at: P, press: Press, grip: AnyGrip<P> | null) => unknown
  /** a drag is over, or given up */
  over?: () => void
}

export function makeDrag<P>(options: DragOptions<P>) {
  /** what is held, with the values of its last move; null before it has moved */
  const held = shallowRef<{ grip: AnyGrip<P>; values: unknown } | null>(null)
  const panning = shallowRef(false)
  let from: Press | null = null
  let last: Press | null = null

  function press(at: Press, grip: AnyGrip<P> | null) {
    if (at.button === 2) return
    from = last = at
    held.value = grip && at.button === 0 ? { grip, values: null } : null
  }
  /** Whether something is pressed. */
  function move(at: Press): boolean {
    if (!from || !last) return false
    const strayed = Math.hypot(at.x - from.x, at.y - from.y) >= CLICK
    const now = held.value
    if (now) {
      if (now.values === null && !strayed) return true
      const values = now.grip.to(options.place(at), at)
      held.value = { grip: now.grip, values }
      now.grip.tryOut(values)
    } else if (options.pan && (panning.value || strayed)) {
      panning.value = true
      options.pan(at.x - last.x, at.y - last.y)
      last = at
    }
    return true
  }
  async function up(at: Press) {
    const [now, was, moved] = [held.value, from, panning.value]
    reset()
    if (!was) return
    if (now && now.values !== null) await now.grip.save?.(now.values)
    else if (!moved && was.button === 0) await options.click?.(options.place(at), at, now?.grip ?? null)
  }
  function reset() {
    held.value = null
    panning.value = false
    from = last = null
    options.over?.()
  }
  /** Escape: what is held goes back; whether anything was. */
  function drop(): boolean {
    const now = held.value
    if (now) now.grip.back?.()
    if (now || from) reset()
    return now !== null
  }
  return { held, panning, press, move, up, drop }
}
export type Drag<P> = ReturnType<typeof makeDrag<P>>

/** What an arrow key does to a handle: (east or along, north or up), or null for another key. */
export function arrowOf(key: string): [number, number] | null {
  return ({ ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] } as Record<string, [number, number]>)[key] ?? null
}
/** Arrow presses on a grip add up as a trial and are saved as one act. */
export const burstOf = <P, V>(grip: Grip<P, V>): Burst<V> => ({
  id: grip.id,
  tryOut: grip.tryOut,
  save: async (values) => grip.save?.(values),
})
