/** Points clicked one after another, for tools that draw a line. */
import { shallowRef } from 'vue'

/** `done` receives the points when the line is ended, at least `least` of them, none twice at one place (a double click clicks twice). */
export function makeDraft<P>(apart: (a: P, b: P) => number, tolerance: number, least: number, done: (points: P[]) => unknown) {
  const points = shallowRef<P[]>([])
  const add = (p: P) => (points.value = [...points.value, p])
  function takeBack(): boolean {
    const any = points.value.length > 0
    points.value = points.value.slice(0, -1)
    return any
  }
  function cancel(): boolean {
    const any = points.value.length > 0
    points.value = []
    return any
  }
  function finish() {
    const kept = points.value.filter((p, i, all) => i === 0 || apart(p, all[i - 1]!) > tolerance)
    points.value = []
    return kept.length >= least ? done(kept) : undefined
  }
  return { points, add, takeBack, cancel, finish }
}
