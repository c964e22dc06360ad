/** What is open in the project: one truth for the rail, the flag in the top bar and the list of findings. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api } from '@/api/client'
import type { GroundFindings } from '@/api/types'
import type { Workbench } from './workbench'

/** The checks of the shown surface; asked for once the road is drawn, or at once in the stage of the ground. */
export function useGroundFindings(bench: Workbench, wanted: () => boolean) {
  const surface = bench.surface
  return useQuery({
    queryKey: computed(() => ['ground-findings', surface.value?.id, surface.value?.key, Object.keys(surface.value?.answers ?? {}).join()]),
    queryFn: () => api.get<GroundFindings>(`/surfaces/${surface.value!.id}/findings`),
    enabled: computed(() => !!surface.value?.sources.length && wanted()),
    staleTime: Infinity,
    placeholderData: (before) => before,
  })
}

export function useOpenFindings(bench: Workbench) {
  const query = useGroundFindings(bench, () => !!bench.saved.value || !bench.project.value?.roads.length)
  const ground = computed(() => (bench.surface.value?.sources.length ? (query.data.value?.open.length ?? 0) : 0))
  const unsorted = computed(
    () => (bench.surface.value?.sources ?? []).flatMap((s) => s.layers).filter((la) => la.role === 'unsorted').length,
  )
  const ofRoad = computed(() => bench.design.value?.findings ?? [])
  const road = computed(() => ofRoad.value.length + Object.keys(bench.problems.value).length)
  /** junctions that the active road is a part of */
  const joined = computed(() =>
    bench.junctions.value.filter((j) => [j.main, j.side, ...j.corners.map((c) => c.road_id)].includes(bench.road.value?.id ?? -1)),
  )
  const junctions = computed(() => joined.value.reduce((sum, j) => sum + j.findings.length + j.problems.length, 0))
  const about = (kind: string) => ofRoad.value.filter((f) => 'about' in f && f.about.kind === kind).length
  const total = computed(() => ground.value + road.value + junctions.value)
  return { ground, unsorted, road, joined, total, about, checking: query.isFetching }
}
