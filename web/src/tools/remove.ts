/** Delete: takes away what is chosen, in the stage where it is edited. */
import type { Workbench } from '@/composables/workbench'
import { useUi } from '@/stores/ui'

export function removeChosen(bench: Workbench) {
  const ui = useUi()
  const chosen = ui.selection
  if (!chosen || !bench.canEdit.value) return
  const surface = bench.surface.value
  if (chosen.kind === 'pi' && chosen.id !== null && ui.stage === 'line') {
    ui.selection = null
    return bench.remove('pi', chosen.id)
  }
  if (chosen.kind === 'pvi' && ui.stage === 'levels') {
    ui.selection = null
    return bench.remove('pvi', chosen.id)
  }
  if (chosen.kind === 'path' && surface && ui.stage === 'ground') {
    ui.selection = null
    return bench.change('surface', surface.id, { label_paths: surface.label_paths.filter((_, i) => i !== chosen.index) })
  }
}
