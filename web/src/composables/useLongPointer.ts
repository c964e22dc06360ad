/** The pointer over the long section: it pans, zooms, chooses, moves the reading mark, holds PVIs, and works the tool in hand. */
import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'
import type { PVIRow } from '@/api/types'
import { useUi } from '@/stores/ui'
import { arrowOf, type AnyGrip, type Grip } from '@/tools/drag'
import { longTools } from '@/tools/long'
import { usePviGrips } from '@/tools/long/pviGrip'
import { tidy, type LongPlace, type Press } from '@/tools/tool'
import { useUnder } from '@/tools/under'
import { useDrag } from '@/tools/useDrag'
import type { Guides } from './useGuides'
import type { useLongSection } from './useLongSection'
import type { Workbench } from './workbench'

const REACH = 40 // px up or down within which a line is chosen to lie parallel to
const HANDLE = 12 // px within which a PVI lies under the pointer

export function useLongPointer(bench: Workbench, host: Ref<HTMLElement | null>, scales: ReturnType<typeof useLongSection>, guides: Guides) {
  const ui = useUi()
  const { desk } = bench
  const { x, y, plot, domain } = scales
  const editing = computed(() => ['levels', 'junctions'].includes(ui.stage) && bench.canEdit.value)
  const perMetre = computed(() => ({
    across: (plot.value.x1 - plot.value.x0) / (domain.value[1] - domain.value[0]),
    up: (plot.value.y1 - plot.value.y0) / Math.abs(y.value.domain()[1]! - y.value.domain()[0]!),
  }))
  const snapAt = (at: LongPlace, apart?: number) => guides.snap(at, perMetre.value.across, perMetre.value.up, apart)
  /** Exact on a crossing, else rounded as a person would type it. */
  function snapped(at: LongPlace): LongPlace {
    const on = snapAt(at)
    return on.exact ? { s: on.s, z: on.z } : { s: tidy(at.s, 2), z: tidy(on.z) }
  }
  const reach = () => REACH / perMetre.value.up
  const tools = longTools({ bench, guides, snapped, reach })
  onScopeDispose(desk.lay(tools))
  const tool = computed(() => desk.inView('long'))

  const pvi = usePviGrips(bench, snapAt)
  const under = useUnder()
  onScopeDispose(desk.holds(under.drop))
  const pointer = ref<LongPlace | null>(null)
  const pvis = computed(() => bench.design.value?.pvis ?? [])
  const drag = useDrag<LongPlace>(desk, host, {
    place: (press) => ({ s: x.value.invert(press.x), z: y.value.invert(press.y) }),
    pan: (dx) => scales.pan(-dx / perMetre.value.across),
    click(at: LongPlace, press: Press, grip: AnyGrip<LongPlace> | null) {
      if (!grip && tool.value?.click) return tool.value.click(at, press)
      const near = pvis.value.map((p, i) => ({ p, i, away: Math.hypot(x.value(p.station) - press.x, y.value(p.elevation) - press.y) }))
      const things = near
        .filter((n) => n.away <= HANDLE)
        .map(({ p, i, away }) => ({ id: `pvi-${p.id}`, words: `PVI ${i + 1}`, away, choose: () => choose(p) }))
      if (!under.choose(press.x, press.y, things)) ui.selection = null
    },
    over: pvi.over,
  })
  const choose = (p: PVIRow) => (ui.selection = { kind: 'pvi', id: p.id })
  function down(event: PointerEvent, grip: AnyGrip<LongPlace> | null = null) {
    under.close()
    if (grip) pointer.value = null
    drag.down(event, grip)
  }
  function move(event: PointerEvent) {
    drag.move(event)
    if (!pvi.held.value) pointer.value = drag.placeOf(event)
  }
  function grab(event: PointerEvent, p: PVIRow) {
    if (tool.value?.click) return down(event) // a tool in hand is what the press is for, also on top of a PVI
    choose(p)
    down(event, editing.value ? pvi.gripOf(p) : null)
  }
  const markGrip: Grip<LongPlace, number> = { id: 'mark', to: (at) => at.s, tryOut: bench.setMark }
  function nudge(event: KeyboardEvent, p: PVIRow) {
    if (editing.value) pvi.step(event, p, arrowOf(event.key)?.[1] ?? 0)
  }
  watch(() => [ui.stage, ui.roadId, domain.value], under.close)

  /** What the head of the view reads out: the dragged PVI as it is drawn, else the pointer. */
  const told = computed(() => {
    const id = pvi.held.value && ui.selection?.kind === 'pvi' ? ui.selection.id : null
    const p = id === null ? null : pvis.value.find((v) => v.id === id)
    return p ? { s: p.station, z: p.elevation } : pointer.value
  })
  /** What the pointer would catch while something is placed, or has caught while a PVI is dragged. */
  const caught = computed(() => {
    if (!pointer.value || !tool.value) return pvi.caught.value
    const at = snapAt(pointer.value)
    return at.exact ? at : null
  })
  const guideDraft = computed(() =>
    guides.draft(pointer.value && (guides.kind.value === 'parallel' ? pointer.value : snapAt(pointer.value)), reach()),
  )
  return {
    editing,
    tools,
    tool,
    pvi,
    pvis,
    under,
    pointer,
    told,
    caught,
    guideDraft,
    panning: drag.panning,
    placeOf: drag.placeOf,
    down,
    move,
    up: drag.up,
    grab,
    markGrip,
    nudge,
  }
}
