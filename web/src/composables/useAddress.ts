/** Stage, road, reading mark, marked range and view alone stand in the address: a reload and a shared link come back to them, and Back
 * walks through stages and closes what lies over the page. */
import { useTitle, watchDebounced } from '@vueuse/core'
import { computed, watch } from 'vue'
import { useRoute, useRouter, type LocationQuery } from 'vue-router'
import { STAGES, useUi, type StageId, type ViewId } from '@/stores/ui'
import type { Workbench } from './workbench'

const number = (v: unknown) => (typeof v === 'string' && v !== '' && Number.isFinite(Number(v)) ? Number(v) : null)

export function useAddress(bench: Workbench) {
  const ui = useUi()
  const route = useRoute()
  const router = useRouter()
  const VIEWS = new Set(STAGES.flatMap((s) => s.views))

  function take(stage: unknown, query: LocationQuery) {
    if (STAGES.some((s) => s.id === stage)) ui.stage = stage as StageId
    const road = number(query.road),
      at = number(query.at)
    if (road !== null) ui.roadId = road
    if (at !== null) ui.mark = at
    const ends = typeof query.range === 'string' ? query.range.split('~').map(number) : []
    ui.range = ends.length === 2 && ends[0] != null && ends[1] != null && ends[0] < ends[1] ? [ends[0], ends[1]] : null
  }
  take(route.params.stage, route.query)
  if (VIEWS.has(route.query.view as ViewId)) ui.solo = route.query.view as ViewId

  const first = computed(() => bench.project.value?.roads[0]?.id ?? null)
  const state = computed(() => {
    const q: Record<string, string> = {}
    if (ui.roadId !== null && ui.roadId !== first.value) q.road = `${ui.roadId}`
    if (ui.mark) q.at = `${Math.round(ui.mark * 1000) / 1000}`
    if (ui.range) q.range = ui.range.map((s) => Math.round(s * 1000) / 1000).join('~')
    if (ui.solo) q.view = ui.solo
    if (ui.panel) q.over = ui.panel
    return q
  })
  const here = () => ({ name: 'workbench', params: { ...route.params, stage: ui.stage }, query: state.value })
  /** A late look must not bring one back who has left for another page. */
  const away = () => route.name !== 'workbench' || Number(route.params.id) !== bench.projectId
  const asIs = (stage: unknown, query: LocationQuery) => stage === ui.stage && JSON.stringify(query) === JSON.stringify(state.value)

  if (route.params.stage !== ui.stage) void router.replace(here())
  watch(
    () => [ui.stage, ui.panel] as const,
    ([stage, panel], [before, over]) => {
      if (away() || asIs(route.params.stage, route.query)) return // the address came first: Back, or a link
      if (stage !== before || (panel && !over)) void router.push(here())
      else void router.replace(here())
    },
  )
  watchDebounced(
    state,
    () => {
      if (bench.project.value && !away() && !asIs(route.params.stage, route.query)) void router.replace(here())
    },
    { debounce: 400 },
  )
  watch(
    () => [route.params.stage, route.query] as const,
    ([stage, query]) => {
      if (away() || asIs(stage, query)) return
      take(stage, query)
      ui.panel = (typeof query.over === 'string' ? query.over : '') as typeof ui.panel
      ui.solo = VIEWS.has(query.view as ViewId) ? (query.view as ViewId) : null
    },
  )
  useTitle(computed(() => [bench.road.value?.name, bench.project.value?.name, 'Ivory Ridge'].filter(Boolean).join(' · ')))
}
