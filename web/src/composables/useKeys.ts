/** Keys of the workbench. Fields keep their own keys. */
import { useEventListener } from '@vueuse/core'
import { useLook } from '@/stores/look'
import { STAGES, useUi } from '@/stores/ui'
import { removeChosen } from '@/tools/remove'
import { useSteps } from './useSteps'
import { useWorkbench } from './workbench'

export function useKeys() {
  const bench = useWorkbench()
  const ui = useUi()
  const look = useLook()
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
    ',': () => step(-1),
    '.': () => step(1),
    '<': () => step(-10),
    '>': () => step(10),
    ';': () => step(-10),
    ':': () => step(10),
    Home: () => bench.setMark(bench.limits.value[0]),
    End: () => bench.setMark(bench.limits.value[1]),
    r: markRange,
    f: () => (ui.solo = ui.solo ? null : ui.activeView),
    t: () => (look.tableOpen = !look.tableOpen),
    i: () => (look.inspectorOpen = !look.inspectorOpen),
    '?': () => (ui.panel = 'keys'),
  }
  // looked at before a dialog closes itself by the same key: then the dialog was the one thing
  useEventListener(
    'keydown',
    (event: KeyboardEvent) => {
      const elsewhere =
        ui.panel !== '' ||
        document.querySelector('.p-dialog') !== null ||
        (event.target as HTMLElement).closest?.('input, textarea, select')
      if (event.key === 'Escape' && !elsewhere) bench.desk.letGo()
    },
    { capture: true },
  )
  useEventListener('keydown', (event: KeyboardEvent) => {
    const key = event.key.toLowerCase()
    if ((event.ctrlKey || event.metaKey) && key === 'k') {
      event.preventDefault()
      ui.panel = ui.panel === 'find' ? '' : 'find'
      return
    }
    const at = event.target as HTMLElement
    // fields have an undo of their own, which comes first
    const typing = at.closest?.('textarea, [contenteditable], input:not([type=checkbox], [type=radio], [type=color], [data-settled=true])')
    const dialog = at.closest?.('.p-dialog')
    if (!typing && !dialog && (event.ctrlKey || event.metaKey) && key === 'z') {
      event.preventDefault()
      if (!event.shiftKey && bench.desk.takeBack()) return // what is being drawn comes before what is done
      if (bench.canEdit.value) void bench.step(event.shiftKey ? 'redo' : 'undo')
      return
    }
    if (!dialog && event.altKey && /^[1-8]$/.test(event.key)) {
      event.preventDefault()
      ui.stage = STAGES[Number(event.key) - 1]!.id
      return
    }
    if (dialog || at.closest?.('input, textarea, select, [contenteditable]') || event.ctrlKey || event.metaKey || event.altKey) return
    if (event.key === 'Backspace' && bench.desk.takeBack()) return event.preventDefault()
    if (event.key === 'Enter' && !at.closest?.('button, a, [role=menuitem]')) return void bench.desk.finish()
    if (event.key === 'Delete') return void removeChosen(bench)
    const run = plain[event.key.length === 1 ? key : event.key]
    if (run) {
      event.preventDefault()
      run()
    }
  })
}
