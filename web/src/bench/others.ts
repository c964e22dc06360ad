/** The other roads of the project, drawn lightly; those that hang on a drag as they would be. */
import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api } from '@/api/client'
import type { LightRoad, Project } from '@/api/types'
import { useUi } from '@/stores/ui'

export function useOthers(project: Ref<Project | null>, tried: Ref<Map<number, LightRoad>>) {
  const ui = useUi()
  const query = useQuery({
    queryKey: computed(() => ['roads-lightly', project.value?.id, project.value?.ledger.head ?? '']),
    queryFn: () => api.get<LightRoad[]>(`/projects/${project.value!.id}/roads-lightly`),
    enabled: computed(() => (project.value?.roads.length ?? 0) > 1),
    placeholderData: (before) => before,
    structuralSharing: false,
  })
  const others = computed(() => {
    const there = new Set(project.value?.roads.filter((r) => r.course.kind !== 'return').map((r) => r.id)) // returns: with junctions
    return (query.data.value ?? [])
      .filter((r) => r.road_id !== ui.roadId && there.has(r.road_id))
      .map((r) => tried.value.get(r.road_id) ?? r)
  })
  /** Why a road that hangs on the dragged one would not compute. */
  const othersWrong = computed(() => {
    const wrong = [...tried.value.values()].find((r) => Object.keys(r.problems).length)
    return wrong ? `${wrong.name} hangs on this road: ${Object.values(wrong.problems)[0]}` : ''
  })
  return { others, othersWrong }
}
