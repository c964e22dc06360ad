/** Volumes of the active road over the marked range, by the way that is chosen; the same for table, summary and panel. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api } from '@/api/client'
import type { VolumesPicture, VolumeWay } from '@/api/types'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'
import { useWorkbench } from './workbench'

export const WAYS: readonly (readonly [VolumeWay, string, string])[] = [
  ['bends', 'Bends counted', 'end areas; every strip is as long as it lies in the bend'],
  ['plain', 'Plain', 'end areas as if the line were straight'],
  ['prismoidal', 'Prismoidal', 'with the real section in the middle of each interval; bends counted'],
]

export function useVolumes() {
  const bench = useWorkbench()
  const ui = useUi()
  const look = useLook()
  const path = computed(() => {
    const range = ui.range ? `&station_from=${ui.range[0]}&station_to=${ui.range[1]}` : ''
    return `?way=${look.volumeWay}${range}`
  })
  const query = useQuery({
    queryKey: computed(() => ['volumes', ui.roadId, bench.saved.value?.key, ui.range, look.volumeWay]),
    queryFn: () => api.get<VolumesPicture>(`/roads/${ui.roadId}/volumes${path.value}`),
    enabled: computed(() => !!bench.saved.value?.earthwork),
    placeholderData: keepPreviousData,
  })
  return { query, path, picture: computed(() => query.data.value ?? null) }
}
