/** What lies under the pointer: the nearest is chosen, and when there are several a short list offers them all. */
import { shallowRef } from 'vue'

export interface Thing {
  id: string
  words: string
  /** px from the pointer */ away: number
  choose: () => void
}

const MOST = 8

export function useUnder() {
  const list = shallowRef<{ x: number; y: number; things: Thing[] } | null>(null)
  /** Choose the nearest; whether there was anything. */
  function choose(x: number, y: number, things: Thing[]): boolean {
    const near = [...things].sort((a, b) => a.away - b.away).slice(0, MOST)
    list.value = near.length > 1 ? { x, y, things: near } : null
    near[0]?.choose()
    return near.length > 0
  }
  const close = () => void (list.value = null)
  /** Escape: whether it was open. */
  function drop(): boolean {
    const open = list.value !== null
    close()
    return open
  }
  return { list, choose, close, drop }
}
