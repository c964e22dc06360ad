/** The pointer over the plan: it pans, chooses, sets the reading mark, holds what can be dragged, and works the tool in hand. */
import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'
import { roadsAt } from '@/canvas/plan/layers'
import { stationOf, type LinePoints } from '@/canvas/shared/alongLine'
import { snapTo, type Snap, type SnapLines } from '@/canvas/shared/snap'
import { panBy, toScreen, toWorld, zoomAt, type ViewTransform } from '@/canvas/shared/viewTransform'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'
import type { AnyGrip } from '@/tools/drag'
import { arrowOf } from '@/tools/drag'
import { groundTools, useGroundWork } from '@/tools/ground'
import { useGroundGrips } from '@/tools/ground/grips'
import { planTools, type PlanContext } from '@/tools/plan'
import { usePiGrips } from '@/tools/plan/piGrip'
import type { PlanPlace, Press } from '@/tools/tool'
import { useUnder, type Thing } from '@/tools/under'
import { useDrag } from '@/tools/useDrag'
import type { Ground } from './useGround'
import type { Workbench } from './workbench'

const CATCH = 10 // px within which received lines are caught
const HANDLE = 12 // px within which a handle lies under the pointer

export function usePlanPointer(
  bench: Workbench,
  view: Ref<ViewTransform>,
  host: Ref<HTMLElement | null>,
  ground: Ground,
  received: () => SnapLines[],
) {
  const ui = useUi()
  const look = useLook()
  const { desk } = bench

  // --- what is caught, and the tools --------------------------------------------------------------------
  const caught = shallowRef<Snap | null>(null)
  const catchAt: PlanContext['catchAt'] = ({ e, n }, press, { last, marked = false } = {}) => {
    const free = !look.snapping || press.ctrl // Ctrl held lets go
    caught.value = free ? null : snapTo(received(), e, n, CATCH / view.value.scale, last, marked)
    return caught.value ? { e: caught.value.e, n: caught.value.n } : { e, n }
  }
  const context: PlanContext = { bench, view: () => view.value, received, caught, catchAt }
  const work = useGroundWork(bench, ground, () => view.value)
  const grips = useGroundGrips(work)
  const pi = usePiGrips(context)
  const tools = [...planTools(context), ...groundTools(work)]
  onScopeDispose(desk.lay(tools))
  onScopeDispose(
    desk.holds(() => {
      const open = work.section.value !== null
      work.section.value = null
      return open
    }),
  )
  const tool = computed(() => desk.inView('plan'))

  // --- the pointer --------------------------------------------------------------------------------------
  const under = useUnder()
  onScopeDispose(desk.holds(under.drop))
  const pointer = ref<{ x: number; y: number; e: number; n: number } | null>(null)
  const place = ({ x, y }: Pick<Press, 'x' | 'y'>): PlanPlace => {
    const [e, n] = toWorld(view.value, x, y)
    return { e, n }
  }
  const drag = useDrag<PlanPlace>(desk, host, {
    place,
    pan: (dx, dy) => (view.value = panBy(view.value, dx, dy)),
    click,
    over: pi.over,
  })
  const aimed = (press: Press) => {
    const at = place(press)
    return tool.value?.aim ? tool.value.aim(at, press) : at
  }
  function move(event: PointerEvent) {
    if (drag.move(event)) return // what is held is read out as it is drawn, and what is panned stays under the pointer
    const press = drag.pressOf(event)
    caught.value = null
    const { e, n } = aimed(press)
    const [x, y] = toScreen(view.value, e, n)
    pointer.value = { x, y, e, n }
  }
  function down(event: PointerEvent, grip: AnyGrip<PlanPlace> | null = null) {
    under.close()
    if (grip) pointer.value = null // one picture a move instead of two
    drag.down(event, grip)
  }
  async function click(at: PlanPlace, press: Press, grip: AnyGrip<PlanPlace> | null) {
    if (!grip && tool.value?.click) return tool.value.click(aimed(press), press)
    if (ui.stage === 'ground') return grip || !work.there() ? undefined : work.choose(at)
    if (!under.choose(press.x, press.y, thingsAt(press))) ui.selection = null
  }
  /** Handles, then other roads, that lie under the pointer. */
  function thingsAt({ x, y }: Press): Thing[] {
    const handled = ['line', 'levels'].includes(ui.stage) ? handles.value : []
    const near = handled.map((h) => ({ h, away: Math.hypot(h.at[0] - x, h.at[1] - y) })).filter((t) => t.away <= HANDLE)
    return [
      ...near.map(({ h, away }) => ({ id: `pi-${h.index}`, words: `PI ${h.index + 1}`, away, choose: () => bench.choosePi(h.index) })),
      ...(look.shown.road ? roadsAt(bench.others.value, view.value, x, y) : []).map(({ road, away }) => ({
        id: `road-${road.road_id}`,
        words: road.name,
        away: away + HANDLE,
        choose: () => (ui.roadId = road.road_id), // behind handles
      })),
    ]
  }
  function wheel(event: WheelEvent) {
    under.close()
    const { x, y } = drag.pressOf(event)
    view.value = zoomAt(view.value, x, y, Math.exp(-event.deltaY * 0.0014))
  }
  async function doubleClick(event: MouseEvent) {
    if (tool.value?.finish) return desk.finish()
    if (tool.value?.click) return
    const line = bench.design.value?.line
    const { e, n } = drag.placeOf(event)
    const found = line && stationOf(line.points as LinePoints, e, n)
    if (found) bench.setMark(found.station)
  }

  // --- handles of the PIs -------------------------------------------------------------------------------
  const pis = computed(() => bench.design.value?.pis ?? [])
  const handles = computed(() => pis.value.map((p, index) => ({ p, index, at: toScreen(view.value, p.easting, p.northing) })))
  function grabPi(event: PointerEvent, index: number) {
    bench.choosePi(index)
    down(event, pi.gripOf(index))
  }
  function nudge(event: KeyboardEvent, index: number) {
    const way = arrowOf(event.key)
    if (way) pi.step(event, index, way)
  }
  watch(() => [ui.stage, ui.roadId], under.close)

  /** What the head of the view reads out: the dragged PI as it is drawn, else the pointer. */
  const told = computed(() => {
    const p = pi.held.value ? pis.value[pi.held.value.index] : null
    return p ? { e: p.easting, n: p.northing } : pointer.value
  })
  /** What the tool in hand is drawing, to the pointer. */
  const drawn = computed(() => {
    const points = (tool.value?.drawn?.() ?? []).map(({ e, n }: PlanPlace) => toScreen(view.value, e, n))
    return {
      points,
      path: [...points, ...(points.length && pointer.value ? [[pointer.value.x, pointer.value.y]] : [])].map((p) => p.join(',')).join(' '),
    }
  })
  return {
    tools,
    tool,
    work,
    grips,
    pi,
    under,
    caught,
    pointer,
    told,
    drawn,
    handles,
    held: drag.held,
    panning: drag.panning,
    wheel,
    down,
    move,
    up: drag.up,
    grabPi,
    nudge,
    doubleClick,
  }
}
