/** What varies along the active road: rows as they are or as a drag has them, the one in hand, spans for the route bar. */
import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'
import { api } from '@/api/client'
import type { AlongRow, Quantity, TrialValues } from '@/api/types'
import { units } from '@/lib/units'
import { useUi } from '@/stores/ui'
import { newest } from './newest'
import type { Workbench } from './workbench'

export const KIND_NAMES: Record<AlongRow['kind'], string> = {
  stretch: 'Stretches',
  adjustment: 'Adjusted values',
  change: 'Changed parts',
  bare: 'No earthwork',
  follow: 'Followed planes',
  led: 'Nodes led by lines',
  meet: 'Ends that meet the ground',
}
/** Vehicles for which a carriageway is wider in bends. */
export const VEHICLES = ['rigid lorry', 'articulated lorry', 'bus'] as const
const USUAL = 100 // in the project's unit of length
export type AskedQuantity = NonNullable<TrialValues['quantity']>

export function useAlong(bench: Workbench) {
  const ui = useUi()
  const rows = computed<AlongRow[]>(() => bench.design.value?.along ?? [])
  const chosen = computed(() => {
    const s = ui.selection
    return s?.kind === 'along' ? (rows.value.find((r) => r.id === s.id) ?? null) : null
  })
  const choose = (id: number) => (ui.selection = { kind: 'along', id })
  const built = computed(() => bench.saved.value?.built ?? {})
  const parts = (side: AlongRow['side']) =>
    side === 'both'
      ? [...(built.value.left ?? []), ...(built.value.right ?? []).filter((p) => !built.value.left?.some((q) => q.id === p.id))]
      : (built.value[side] ?? [])
  /** Where an end is caught: other rows' ends, tangent points, the mark, the ends of the road. */
  const catches = (but: number) => [
    ...rows.value.filter((r) => r.id !== but).flatMap((r) => [r.station_from, r.station_to]),
    ...(bench.design.value?.line?.elements ?? []).flatMap((e) => [e.start, e.end]),
    ui.mark,
    ...bench.limits.value,
  ]
  /** The marked range, else a usual length from the reading mark on: what a new row takes. */
  const usualRange = computed<[number, number]>(
    () => ui.range ?? [ui.mark, Math.min(ui.mark + USUAL * units.value.metre, bench.limits.value[1])],
  )
  return { rows, chosen, choose, built, parts, catches, usualRange }
}

/** One quantity along the road: as saved, and as a drag has it. */
export function useQuantity(bench: Workbench, asked: () => AskedQuantity | null) {
  const ui = useUi()
  const saved = shallowRef<Quantity | null>(null)
  const problem = ref('')
  const get = newest<{ road: number; asked: AskedQuantity }, Quantity>(
    ({ road, asked: q }, signal) => api.get<Quantity>(`/roads/${road}/quantity?${new URLSearchParams({ ...q })}`, signal),
    (got) => {
      saved.value = got
      problem.value = ''
    },
    (error) => (problem.value = (error as Error).message),
  )
  watch(
    () => [bench.saved.value?.key, JSON.stringify(asked())] as const,
    () => {
      const q = asked()
      if (q && ui.roadId !== null && bench.saved.value) get.ask({ road: ui.roadId, asked: q })
      else saved.value = null
    },
    { immediate: true },
  )
  onScopeDispose(() => get.cancel())
  const drawn = computed(() => {
    const q = asked()
    const tried = (bench.design.value as { quantity?: Quantity } | null)?.quantity
    const same = (x?: Quantity | null) => x && q && x.side === q.side && x.part === q.part && x.parameter === q.parameter
    return same(tried) ? tried! : same(saved.value) ? saved.value : null
  })
  return { drawn, problem }
}
