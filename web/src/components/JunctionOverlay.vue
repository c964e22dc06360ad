<script setup lang="ts">
/** Junctions over the plan: areas with their contours, returns, handles of radii, and a mark where roads meet without a junction. */
import { computed } from 'vue'
import type { CornerRow, JunctionRow, Junctions } from '@/api/types'
import { toScreen, type ViewTransform } from '@/canvas/shared/viewTransform'
import type { usePlanPointer } from '@/composables/usePlanPointer'
import { useWorkbench } from '@/composables/workbench'
import { bareLength } from '@/lib/units'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'
import { cornerGrip } from '@/tools/plan/cornerGrip'

const props = defineProps<{ view: ViewTransform; on: ReturnType<typeof usePlanPointer> }>()
const bench = useWorkbench()
const ui = useUi()
const look = useLook()
const ENDS = ['start', 'end'] as const
const HANDS = ['left', 'right'] as const
const NEAR = 2 // px a metre from which contours and handles are drawn
const worked = computed(() => ui.stage === 'junctions')
const near = computed(() => props.view.scale >= NEAR)
const shown = computed(() => (look.shown.road && ui.stage !== 'ground' ? bench.junctions.value : []))
const screen = (p: readonly number[]) => toScreen(props.view, p[0]!, p[1]!)
const text = (points: readonly (readonly number[])[]) => points.map((p) => screen(p).join(',')).join(' ')
const at = (p: readonly number[]) => `translate(${screen(p).join(' ')})`

/** Where the words of a corner stand: outward of the junction, so that those of two corners part. */
function beside(junction: JunctionRow, handle: readonly number[]) {
  const east = handle[0]! >= junction.place[0]
  return { x: east ? 9 : -9, y: handle[1]! >= junction.place[1] ? -7 : 15, 'text-anchor': east ? 'start' : 'end' }
}
function choose(junction: JunctionRow, corner: CornerRow) {
  bench.chosenJunction.value = junction.id
  ui.roadId = corner.road_id
}
function grab(event: PointerEvent, junction: JunctionRow, corner: CornerRow, by: 'middle' | 'start' | 'end' = 'middle') {
  choose(junction, corner)
  props.on.down(event, cornerGrip(bench, junction, corner, by))
}
function stepRadius(event: KeyboardEvent, junction: JunctionRow, corner: CornerRow) {
  const way = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key]
  const grip = cornerGrip(bench, junction, corner)
  if (!way || !grip?.save) return
  event.preventDefault()
  const by = way * (event.shiftKey ? 5 : event.ctrlKey ? 0.1 : 1)
  const save = async (radius: number) => grip.save!(radius)
  bench.bursts.press<number>({ id: grip.id, tryOut: grip.tryOut, save }, (before) =>
    Math.max(Math.round(((before ?? corner.shape.radius) + by) * 10) / 10, 1),
  )
}
const nameOf = (id: number) => bench.project.value?.roads.find((r) => r.id === id)?.name ?? ''
const offerTitle = (o: Junctions['offers'][number]) =>
  `${nameOf(o.side)} ${o.crosses ? 'crosses' : 'ends at'} ${nameOf(o.main)}: make a junction`
</script>

<template>
  <g data-test="junctions-drawn" :data-count="shown.length">
    <template v-if="worked && bench.junctionSight.value"><template v-for="a in bench.junctionSight.value.arms" :key="a.arm">
      <template v-for="h in HANDS" :key="h"><polygon v-if="a[h].edge.length" :points="text([a.eye, ...a[h].edge])" class="sight"
          :class="{ short: !a[h].enough }" data-test="sight-area" /><path v-if="a[h].place" :transform="at(a[h].place!)"
          d="M-5-5 5 5M5-5-5 5" class="hides" /></template></template></template>
    <g v-for="j in shown" :key="j.id">
      <polygon v-for="p in j.patches" :key="p.arm" :points="text(p.ring)" class="patch" />
      <template v-if="worked && near"><template v-for="p in j.patches" :key="`c${p.arm}`"><polyline v-for="(c, i) in p.contours" :key="i"
          :points="text(c.points)" class="contour" /></template></template>
      <template v-for="c in j.corners" :key="c.road_id">
        <polyline v-if="c.points" :points="text(c.points)" class="return"
            :class="{ pinned: c.levels === 'pinned', chosen: worked && ui.roadId === c.road_id }" />
        <polyline v-if="c.points && worked" :points="text(c.points)" class="press" @pointerdown.stop @click="choose(j, c)" />
        <template v-if="worked && near && c.start && c.end && c.handle">
          <g v-for="w in ENDS" :key="w" :transform="at(c[w]!.place)" class="tangent" :class="{ held: c.shape.form === 'radius' }"
              :data-test="`tangent-${w}-${c.road_id}`" @pointerdown.stop="grab($event, j, c, w)"><circle r="8"
              fill="transparent" /><circle r="3" /></g>
          <g :transform="at(c.handle)" class="corner" :class="{ chosen: ui.roadId === c.road_id, pinned: c.levels === 'pinned' }"
              role="button" :tabindex="bench.canEdit.value ? 0 : undefined" :aria-label="`${c.name}, radius`"
              :data-test="`corner-handle-${c.road_id}`" @pointerdown.stop="grab($event, j, c)" @focus="choose(j, c)"
              @keydown="stepRadius($event, j, c)">
            <circle r="11" fill="transparent" /><circle r="5" /><text v-bind="beside(j, c.handle)">{{ c.compass }}
              {{ c.shape.form === 'none' ? '' : `R ${bareLength(c.shape.radius, 1)}` }}</text></g>
        </template>
      </template>
    </g>
    <template v-if="worked && bench.canEdit.value && !ui.tool">
      <g v-for="o in bench.offers.value" :key="`${o.main}-${o.side}-${o.place.join()}`" :transform="at(o.place)" class="offer"
          role="button" tabindex="0" :aria-label="offerTitle(o)" data-test="junction-offer" @pointerdown.stop
          @click="bench.join('junctions', o)" @keydown.enter="bench.join('junctions', o)"><title>{{
          offerTitle(o) }}</title><circle r="11" /><path d="M-5 0H5M0-5V5" /></g>
    </template>
  </g>
</template>

<style scoped>
.sight { fill: #4f7d3a; fill-opacity: 0.1; stroke: #4f7d3a; stroke-opacity: 0.6; stroke-dasharray: 5 3; pointer-events: none; }
.sight.short { fill: var(--madder); stroke: var(--madder); }
.hides { stroke: var(--madder); stroke-width: 2; pointer-events: none; }
.patch { fill: var(--petrol); fill-opacity: 0.2; stroke: none; pointer-events: none; }
.contour { fill: none; stroke: var(--petrol); stroke-width: 0.8; stroke-opacity: 0.75; pointer-events: none; }
.return { fill: none; stroke: var(--petrol); stroke-width: 1.6; pointer-events: none; }
.return.pinned { stroke: var(--ochre); }
.return.chosen { stroke-width: 3.2; }
.press { fill: none; stroke: transparent; stroke-width: 9; cursor: pointer; }
.tangent circle + circle { fill: #fff; stroke: var(--petrol); stroke-width: 1.4; }
.tangent:not(.held) { pointer-events: none; }
.tangent.held { cursor: move; }
.corner { cursor: move; }
.corner circle + circle { fill: #fff; stroke: var(--petrol); stroke-width: 2; }
.corner.pinned circle + circle { stroke: var(--ochre); }
.corner.chosen circle + circle { fill: var(--petrol); }
.corner.chosen.pinned circle + circle { fill: var(--ochre); }
.corner text { font-size: 11px; font-weight: 600; fill: var(--ink); paint-order: stroke; stroke: #fff; stroke-width: 3px; pointer-events: none; }
.corner:focus { outline: none; }
.corner:focus-visible circle + circle { stroke-width: 4; }
.offer { cursor: pointer; }
.offer circle { fill: #fff; stroke: var(--ochre); stroke-width: 2; stroke-dasharray: 4 2; }
.offer path { stroke: var(--ochre); stroke-width: 2; }
.offer:hover circle, .offer:focus-visible circle { fill: #fdf3e2; stroke-dasharray: none; }
.offer:focus { outline: none; }
</style>
