/** The vertical curve of the chosen PVI, through a place that is clicked. */
import { useUi } from '@/stores/ui'
import type { LongPlace, Tool } from '../tool'
import type { LongContext } from './index'

export function pviThrough({ bench, snapped }: LongContext): Tool<LongPlace> {
  const ui = useUi()
  return {
    id: 'pvi-through',
    view: 'long',
    stage: 'levels',
    name: '',
    hint: '',
    async click(at) {
      const { s, z } = snapped(at)
      if (ui.selection?.kind === 'pvi') await bench.post('pvi', ui.selection.id, 'curve', { station: s, level: z })
      ui.tool = ''
    },
  }
}
