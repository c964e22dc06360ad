/** Short messages at the lower edge: what an act did, what moved with it, or why it was not done. */
import { defineStore } from 'pinia'
import { ref } from 'vue'

/** Where a message leads: what stands in the way, say. */
export interface Go {
  label: string
  run: () => void
}

export interface Told {
  id: number
  text: string
  more: string[]
  kind: 'done' | 'wrong'
  canUndo: boolean
  go: Go | null
}

export const useTold = defineStore('told', () => {
  const list = ref<Told[]>([])
  let next = 1

  function tell(text: string, options: { more?: string[]; kind?: Told['kind']; canUndo?: boolean; seconds?: number; go?: Go } = {}) {
    const one: Told = {
      id: next++,
      text,
      more: options.more ?? [],
      kind: options.kind ?? 'done',
      canUndo: options.canUndo ?? false,
      go: options.go ?? null,
    }
    list.value = [...list.value.slice(-2), one]
    setTimeout(() => dismiss(one.id), 1000 * (options.seconds ?? (one.kind === 'wrong' ? 14 : 7)))
  }
  function dismiss(id: number) {
    list.value = list.value.filter((t) => t.id !== id)
  }
  return { list, tell, dismiss }
})
