/** What the pointer does in plan: pan, zoom, set the reading mark, drag a PI, add PIs, draw a new road. */
import { computed, ref, shallowRef, type Ref } from 'vue'
import { api } from '@/api/client'
import { otherRoadAt } from '@/canvas/plan/layers'
import { stationOf, type LinePoints } from '@/canvas/shared/alongLine'
import { snapTo, type Snap, type SnapLines } from '@/canvas/shared/snap'
import { panBy, toScreen, toWorld, zoomAt, type ViewTransform } from '@/canvas/shared/viewTransform'
import { useUi } from '@/stores/ui'
import type { GroundTools } from './useGroundTools'
import type { Workbench } from './workbench'

type Doing =
  | { kind: 'idle' }
  | { kind: 'pan'; x: number; y: number; moved: boolean }
  | { kind: 'pi'; index: number; id: number; revision: number; moved: boolean }

const CLICK = 4 // px the pointer may stray and still click
const round = (v: number) => Math.round(v * 1000) / 1000

const CATCH = 10 // px within which received lines are caught

/** `ground` takes clicks and double clicks while its stage is open. */
export function usePlanTools(bench: Workbench, view: Ref<ViewTransform>, ground: Pick<GroundTools, 'active' | 'click' | 'finish' | 'draft'>, received: () => SnapLines[] = () => []) {
  const ui = useUi()
  const doing = ref<Doing>({ kind: 'idle' })
  /** Where the pointer holds the dragged PI; drawn only when the trial there is refused. */
  const held = shallowRef({ easting: 0, northing: 0 })
  /** PIs of a road being drawn */
  const draft = ref<{ easting: number; northing: number }[]>([])
  const pointer = ref<{ x: number; y: number; e: number; n: number } | null>(null)

  /** what the pointer catches while a line is drawn or a PI is dragged; Ctrl held lets go */
  const caught = shallowRef<Snap | null>(null)
  const placing = computed(() => ['draw-road', 'add-pi', 'curve-through'].includes(ui.tool))
  function catchAt(event: PointerEvent, e: number, n: number, marked = false): [number, number] {
    const last = ui.tool === 'draw-road' ? draft.value.at(-1) : undefined
    caught.value = ui.snapping && !event.ctrlKey ? snapTo(received(), e, n, CATCH / view.value.scale, last && { e: last.easting, n: last.northing }, marked) : null
    return caught.value ? [caught.value.e, caught.value.n] : [e, n]
  }
  const pis = computed(() => bench.design.value?.pis ?? [])
  const handles = computed(() => pis.value.map((p, index) => ({ p, index, at: toScreen(view.value, p.easting, p.northing) })))

  function place(event: PointerEvent | MouseEvent): [number, number] {
    const box = (event.currentTarget as Element).getBoundingClientRect()
    return [event.clientX - box.left, event.clientY - box.top]
  }
  function wheel(event: WheelEvent) {
    const [x, y] = place(event)
    view.value = zoomAt(view.value, x, y, Math.exp(-event.deltaY * 0.0014))
  }
  function down(event: PointerEvent) {
    if (event.button === 2) return
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
    doing.value = { kind: 'pan', x: event.clientX, y: event.clientY, moved: false }
  }
  function grabPi(event: PointerEvent, index: number) {
    bench.choosePi(index)
    const p = pis.value[index]
    const between = p?.straight_held && pis.value[index - 1]?.straight_held // two held straights leave it no way to go
    if (event.button !== 0 || !bench.canEdit.value || !p?.id || p.held || between) return
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
    doing.value = { kind: 'pi', index, id: p.id, revision: p.revision, moved: false }
    pointer.value = null // the readout follows the PI as it is drawn, not the pointer: one picture a move instead of two
  }
  function move(event: PointerEvent) {
    const [x, y] = place(event)
    const [e, n] = toWorld(view.value, x, y)
    const d = doing.value
    if (d.kind === 'idle') pointer.value = { x, y, e, n } // while panned the place under it stays the same
    if (d.kind === 'idle' && placing.value) {
      const [se, sn] = catchAt(event, e, n)
      const [sx, sy] = toScreen(view.value, se, sn)
      pointer.value = { x: sx, y: sy, e: se, n: sn }
    } else if (d.kind === 'idle') caught.value = null
    if (d.kind === 'pan') {
      const dx = event.clientX - d.x, dy = event.clientY - d.y
      if (!d.moved && Math.hypot(dx, dy) < CLICK) return
      view.value = panBy(view.value, dx, dy)
      doing.value = { kind: 'pan', x: event.clientX, y: event.clientY, moved: true }
    } else if (d.kind === 'pi') {
      const [se, sn] = catchAt(event, e, n, true) // a line is only followed where one is drawn
      held.value = { easting: round(se), northing: round(sn) }
      if (!d.moved) doing.value = { ...d, moved: true }
      bench.tryOut({ pi: { index: d.index, ...held.value } })
    }
  }
  /** What the head of the view reads out: the dragged PI as it is drawn, else the pointer. */
  const told = computed(() => {
    const p = doing.value.kind === 'pi' ? pis.value[doing.value.index] : null
    return p ? { e: p.easting, n: p.northing } : pointer.value
  })
  async function up(event: PointerEvent) {
    const d = doing.value
    doing.value = { kind: 'idle' }
    caught.value = null
    if (d.kind === 'pan' && !d.moved && event.button === 0) await click(event)
    if (d.kind === 'pi' && d.moved) {
      await bench.act(() => api.patch(`/roads/${ui.roadId}/pis/${d.id}`, { revision: bench.revisionOf(d, 'pis'), ...held.value }))
    }
  }
  async function click(event: PointerEvent) {
    const [x, y] = place(event)
    const at = toWorld(view.value, x, y)
    const [e, n] = (placing.value ? catchAt(event, ...at) : at).map(round) as [number, number]
    if (ground.active.value) await ground.click(e, n)
    else if (ui.tool === 'curve-through') ui.clicked = { e, n }
    else if (ui.tool === 'draw-road') draft.value = [...draft.value, { easting: e, northing: n }]
    else if (ui.tool === 'add-pi' && ui.roadId !== null) {
      await bench.act(() => api.post(`/roads/${ui.roadId}/pis`, { between: besidesOf(indexFor(e, n)), easting: e, northing: n }))
    } else {
      ui.selection = null
      const other = otherRoadAt(bench.others.value, view.value, x, y)
      if (other && ui.stage !== 'ground') ui.roadId = other.road_id
    }
  }
  /** Where a new PI belongs: into the nearest leg, or before the start or after the end when it lies beyond. */
  function indexFor(e: number, n: number): number {
    const p = pis.value
    if (p.length < 2) return p.length
    let best = Infinity
    let index = p.length
    for (let i = 0; i + 1 < p.length; i++) {
      const dx = p[i + 1]!.easting - p[i]!.easting, dy = p[i + 1]!.northing - p[i]!.northing
      const t = ((e - p[i]!.easting) * dx + (n - p[i]!.northing) * dy) / (dx * dx + dy * dy)
      const c = Math.min(Math.max(t, 0), 1)
      const d = Math.hypot(e - p[i]!.easting - c * dx, n - p[i]!.northing - c * dy)
      if (d < best) {
        best = d
        index = t < 0 && i === 0 ? 0 : t > 1 && i + 2 === p.length ? p.length : i + 1
      }
    }
    return index
  }
  /** The PIs that a new one of this index stands between, as they are seen; null beyond an end. */
  const besidesOf = (index: number) => [pis.value[index - 1]?.id ?? null, pis.value[index]?.id ?? null]
  async function doubleClick(event: MouseEvent) {
    if (ui.tool === 'draw-road') return finishDraft()
    if (ground.active.value && ground.draft.value.length) return ground.finish()
    if (ground.active.value && ui.tool) return
    const line = bench.design.value?.line
    if (!line) return
    const [e, n] = toWorld(view.value, ...place(event))
    const found = stationOf(line.points as LinePoints, e, n)
    if (found) bench.setMark(found.station)
  }
  async function finishDraft() {
    // a double click has clicked twice at one place
    const points = draft.value.filter((p, i, all) => i === 0 || Math.hypot(p.easting - all[i - 1]!.easting, p.northing - all[i - 1]!.northing) > 0.5)
    draft.value = []
    ui.tool = ''
    if (points.length < 2) return
    const done = await bench.act(() => api.post(`/projects/${bench.projectId}/roads`, { name: `Road ${(bench.project.value?.roads.length ?? 0) + 1}`, pis: points }))
    if (done?.road_id) ui.roadId = done.road_id
  }
  async function deletePi(index: number) {
    const p = pis.value[index]
    if (!p?.id || !bench.canEdit.value) return
    ui.selection = null
    await bench.act(() => api.delete(`/roads/${ui.roadId}/pis/${p.id}?revision=${bench.revisionOf(p, 'pis')}`))
  }
  function cancelDrag() {
    if (doing.value.kind === 'pi') bench.endTrial()
    doing.value = { kind: 'idle' }
    caught.value = null
  }
  function cancel() {
    draft.value = []
    if (doing.value.kind === 'pi') bench.endTrial()
    doing.value = { kind: 'idle' }
    caught.value = null
    ui.tool = ''
  }
  return { doing, caught, draft, pointer, told, held, handles, wheel, down, grabPi, move, up, doubleClick, finishDraft, deletePi, cancel, cancelDrag }
}
