/** The land that the active road takes, as it is saved; asked for while somebody looks at it. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api } from '@/api/client'
import type { LandPicture } from '@/api/types'
import { useUi } from '@/stores/ui'
import type { Workbench } from './workbench'

export function useLand(bench: Workbench) {
  const ui = useUi()
  const land = computed(() => bench.project.value?.settings.land ?? {})
  const wanted = computed(() => ui.stage === 'road' && (!!land.value.survey || !!land.value.margin) && !!bench.saved.value?.earthwork)
  const query = useQuery({
    queryKey: computed(() => ['land', ui.roadId, bench.saved.value?.key, land.value.margin]),
    queryFn: () => api.get<LandPicture>(`/roads/${ui.roadId}/land`),
    enabled: wanted,
    placeholderData: keepPreviousData,
  })
  return { land, picture: computed(() => (wanted.value ? (query.data.value ?? null) : null)) }
}
