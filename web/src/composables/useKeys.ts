/** Keys of the workbench. Fields keep their own keys. */
import { useEventListener } from '@vueuse/core'
import { STAGES, useUi } from '@/stores/ui'
import { useSteps } from './useSteps'
import { useWorkbench } from './workbench'

export function useKeys() {
  const bench = useWorkbench()
  const ui = useUi()
  const { step } = useSteps()
  let rangeFrom: number | null = null

  function markRange() {
    if (ui.range) {
      ui.range = null
      rangeFrom = null
    } else if (rangeFrom === null) rangeFrom = ui.mark
    else {
      ui.range = rangeFrom === ui.mark ? null : [Math.min(rangeFrom, ui.mark), Math.max(rangeFrom, ui.mark)]
      rangeFrom = null
    }
  }
  const plain: Record<string, () => void> = {
    ',': () => step(-1), '.': () => step(1), '<': () => step(-10), '>': () => step(10), ';': () => step(-10), ':': () => step(10),
    Home: () => bench.setMark(bench.limits.value[0]), End: () => bench.setMark(bench.limits.value[1]),
    r: markRange, f: () => (ui.solo = ui.solo ? null : ui.activeView), t: () => (ui.tableOpen = !ui.tableOpen), i: () => (ui.inspectorOpen = !ui.inspectorOpen), '?': () => (ui.panel = 'keys'),
  }
  useEventListener('keydown', (event: KeyboardEvent) => {
    const key = event.key.toLowerCase()
    if ((event.ctrlKey || event.metaKey) && key === 'k') {
      event.preventDefault()
      ui.panel = ui.panel === 'find' ? '' : 'find'
      return
    }
    const at = event.target as HTMLElement
    const typing = at.closest?.('textarea, [contenteditable], input:not([type=checkbox], [type=radio], [type=color], [data-settled=true])') // their own undo comes first
    const dialog = at.closest?.('.p-dialog')
    if (!typing && !dialog && (event.ctrlKey || event.metaKey) && key === 'z') {
      event.preventDefault()
      if (!event.shiftKey && bench.takeBack()) return // what is being drawn comes before what is done
      if (bench.canEdit.value) void bench.step(event.shiftKey ? 'redo' : 'undo')
      return
    }
    if (!dialog && event.altKey && /^[1-8]$/.test(event.key)) {
      event.preventDefault()
      ui.stage = STAGES[Number(event.key) - 1]!.id
      return
    }
    if (dialog || at.closest?.('input, textarea, select, [contenteditable]') || event.ctrlKey || event.metaKey || event.altKey) return
    if (event.key === 'Backspace' && bench.takeBack()) return event.preventDefault()
    const run = plain[event.key.length === 1 ? key : event.key]
    if (run) {
      event.preventDefault()
      run()
    }
  })
}
