/** A line of a gradient that helps to place PVIs. */
import type { LongPlace, Tool } from '../tool'
import type { LongContext } from './index'

export function guide({ bench, guides, snapped, reach }: LongContext): Tool<LongPlace> {
  return {
    id: 'guide',
    view: 'long',
    stage: 'levels',
    name: 'Guide line',
    hint: '',
    ready: () => !!bench.design.value?.line,
    click: (at) => guides.click(guides.kind.value === 'parallel' ? at : snapped(at), reach()),
    takeBack: guides.takeBack,
    cancel: guides.takeBack,
  }
}
