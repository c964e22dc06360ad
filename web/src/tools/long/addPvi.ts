/** A PVI put into the profile. */
import { api } from '@/api/client'
import type { Acted } from '@/api/types'
import { useUi } from '@/stores/ui'
import type { LongPlace, Tool } from '../tool'
import type { LongContext } from './index'

export function addPvi({ bench, snapped }: LongContext): Tool<LongPlace> {
  const ui = useUi()
  return {
    id: 'add-pvi',
    view: 'long',
    stage: 'levels',
    name: 'Add PVI',
    hint: '',
    ready: () => !!bench.design.value?.line,
    click(at) {
      const { s, z } = snapped(at)
      return bench.act(() => api.post<Acted>(`/roads/${ui.roadId}/pvis`, { station: s, elevation: z }))
    },
  }
}
