/** The section at the reading mark: the trial's while there is one, else the saved road's. */
import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import { api, type AppError } from '@/api/client'
import type { RoadDesign, Section } from '@/api/types'
import { newest } from '@/composables/newest'
import { useUi } from '@/stores/ui'

export function useSection(saved: Ref<RoadDesign | null>, trial: Ref<RoadDesign | null>) {
  const ui = useUi()
  const fetched = shallowRef<{ section: Section; key: string } | null>(null)
  const sectionProblem = ref('')
  const asked = newest<{ road: number; station: number; key: string }, Section>(
    (a, signal) => api.get<Section>(`/roads/${a.road}/section?station=${a.station}`, signal),
    (section, a) => {
      fetched.value = { section, key: `${a.road}` }
      sectionProblem.value = ''
    },
    (error) => (sectionProblem.value = (error as AppError).message),
  )
  watch(
    () => [ui.roadId, ui.mark, saved.value?.key, trial.value !== null] as const,
    ([id, mark, key, trying]) => {
      if (id !== null && key && !trying && saved.value?.levels && saved.value.earthwork) asked.ask({ road: id, station: mark, key })
    },
    { immediate: true },
  )
  const section = computed(() => trial.value?.section ?? (fetched.value?.key === `${ui.roadId}` ? fetched.value.section : null))
  return { section, sectionProblem }
}
