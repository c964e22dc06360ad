/** The open project as the server has it, who else is here, and which of its things are worked on. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, onScopeDispose, watch, type Ref } from 'vue'
import { api } from '@/api/client'
import type { Head, Project } from '@/api/types'
import { units, UNITS } from '@/lib/units'
import { useUi } from '@/stores/ui'

const LOOK = 1200 // ms between looks for other people's changes

/** `free`: nothing is dragged or saved, so that what others did may be fetched. */
export function useProject(projectId: number, free: Ref<boolean>) {
  const ui = useUi()
  const client = useQueryClient()
  const projectQuery = useQuery({
    queryKey: ['project', projectId],
    queryFn: () => api.get<Project>(`/projects/${projectId}`),
    structuralSharing: true,
  })
  const project = computed(() => projectQuery.data.value ?? null)
  /** A small look at which state the project is in; the project itself is fetched when that is another one. */
  const headQuery = useQuery({
    queryKey: ['head', projectId],
    queryFn: () => api.get<Head>(`/projects/${projectId}/head`),
    refetchInterval: LOOK,
    enabled: computed(() => project.value !== null),
  })
  /** Names of the other people who look at the project now. */
  const here = computed(() => headQuery.data.value?.here ?? [])
  watch(
    () => [headQuery.data.value?.head, free.value] as const,
    ([head, now]) => {
      const known = Number(project.value?.ledger.head ?? head)
      if (now && head !== undefined && Number(head) > known) void client.invalidateQueries({ queryKey: ['project', projectId] })
    },
  )

  watch(
    () => project.value?.settings.length_unit ?? 'm',
    (name) => (units.value = UNITS[name]),
    { immediate: true, flush: 'sync' },
  )
  onScopeDispose(() => (units.value = UNITS.m))

  const road = computed(() => project.value?.roads.find((r) => r.id === ui.roadId) ?? null)
  const surface = computed(() => {
    const all = project.value?.surfaces ?? []
    const looked = ui.stage === 'ground' ? all.find((s) => s.id === ui.surfaceId) : undefined
    return looked ?? all.find((s) => s.id === road.value?.surface_id) ?? all[0] ?? null
  })
  const template = computed(() => project.value?.templates.find((t) => t.id === road.value?.template_id) ?? null)
  const sheets = computed(() => project.value?.sheet_sets.find((s) => s.road_id === ui.roadId) ?? null)
  const canEdit = computed(() => project.value?.role !== 'viewer')
  watch(
    () => project.value?.roads,
    (roads) => {
      if (roads && !roads.some((r) => r.id === ui.roadId)) ui.roadId = roads[0]?.id ?? null
    },
    { immediate: true },
  )

  /** How wide the project is, m: the greatest side of all that was measured; 10 km before there is anything. */
  const extent = computed(() => {
    const boxes = (project.value?.surfaces ?? []).flatMap((s) => s.sources.map((q) => q.extent))
    if (!boxes.length) return 10_000
    const low = [0, 1].map((k) => Math.min(...boxes.map((b) => b[k]!)))
    const high = [2, 3].map((k) => Math.max(...boxes.map((b) => b[k]!)))
    return Math.max(high[0]! - low[0]!, high[1]! - low[1]!, 100)
  })
  return { projectQuery, project, here, road, surface, template, sheets, canEdit, extent }
}
