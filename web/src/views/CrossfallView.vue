<script setup lang="ts">
/**
 * Left and right crossfall along the road. The places of a bend are dragged along, its full crossfall up and down; what is dragged is
 * pinned.
 */
import { useElementSize } from '@vueuse/core'
import { scaleLinear } from 'd3-scale'
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { TurnedBend } from '@/api/types'
import EmptyNote from '@/components/EmptyNote.vue'
import StageTables from '@/components/StageTables.vue'
import ViewFrame from '@/components/ViewFrame.vue'
import { bandInterval } from '@/composables/useLongSection'
import { useWorkbench } from '@/composables/workbench'
import { formatNumber } from '@/lib/format'
import { useUi } from '@/stores/ui'
import { bendGrip, PLACES, stepBend, type BendPlace, type TurnPlace } from '@/tools/crossfall/bendGrip'
import { arrowOf } from '@/tools/drag'
import { useDrag } from '@/tools/useDrag'

const bench = useWorkbench()
const ui = useUi()
const host = useTemplateRef<HTMLElement>('host')
const { width, height } = useElementSize(host)
const turning = computed(() => bench.design.value?.crossfall ?? null)
const domain = ref<[number, number]>([0, 1])
watch(
  () => bench.limits.value.join(),
  () => (domain.value = [...bench.limits.value]),
  { immediate: true },
)
const LEFT = 46
const x = computed(() => scaleLinear(domain.value, [LEFT, Math.max(width.value - 12, LEFT + 1)]))
const most = computed(() => Math.max(0.04, ...(turning.value?.left ?? []), ...(turning.value?.right ?? [])) * 1.2)
const y = computed(() => scaleLinear([-most.value, most.value], [Math.max(height.value - 24, 12), 10]))
const ticks = computed(() => y.value.ticks(5))
const columns = computed(() => {
  const step = bandInterval((domain.value[1] - domain.value[0]) / Math.max(width.value - LEFT, 1))
  return Array.from(
    { length: Math.max(Math.floor(domain.value[1] / step) - Math.ceil(domain.value[0] / step) + 1, 0) },
    (_, i) => (Math.ceil(domain.value[0] / step) + i) * step,
  )
})
/** A side over the whole road: level beyond the first and last place. */
function path(rates: number[]): string {
  const s = turning.value!.station
  const [first, last] = bench.limits.value
  const points = [
    [Math.min(first, s[0]!), rates[0]!],
    ...s.map((v, i) => [v, rates[i]!]),
    [Math.max(last, s[s.length - 1]!), rates[rates.length - 1]!],
  ]
  return points.map(([a, r], i) => `${i ? 'L' : 'M'}${x.value(a!).toFixed(1)} ${y.value(r!).toFixed(1)}`).join('')
}
const at = (rates: number[]) => {
  const s = turning.value!.station
  const i = s.findIndex((v) => v >= ui.mark)
  if (i < 0) return rates[rates.length - 1]!
  if (i === 0) return rates[0]!
  const t = (ui.mark - s[i - 1]!) / (s[i]! - s[i - 1]! || 1)
  return rates[i - 1]! + t * (rates[i]! - rates[i - 1]!)
}
const told = computed(() =>
  turning.value?.station.length
    ? `left ${formatNumber(100 * at(turning.value.left), 2, true)} %, right ${formatNumber(100 * at(turning.value.right), 2, true)} %`
    : '',
)

// --- handles: where a bend is level and full, on the outer side ---------------------------------------------
const NAMES: Record<BendPlace, string> = {
  level_in: 'level, going in',
  full_in: 'full, going in',
  full_out: 'full, going out',
  level_out: 'level, going out',
}
const handles = computed(() =>
  (turning.value?.bends ?? []).flatMap((b) =>
    PLACES.map((place) => ({ b, place, x: x.value(b[place]), y: y.value(place.startsWith('full') ? b.rate : 0) })),
  ),
)
const chosen = computed(() => (ui.selection?.kind === 'pi' ? ui.selection.index : -1))
/** TS and ST of a bend, from which pinned places are counted. */
// a PI of a line that failed has none
const points = (b: TurnedBend) => bench.design.value?.pis[b.pi]?.stations ?? [b.level_in, b.level_out]
const base = (b: TurnedBend, place: BendPlace) => points(b)[place.endsWith('in') ? 0 : 1]
const drag = useDrag<TurnPlace>(bench.desk, host, {
  place: (press) => ({ s: x.value.invert(press.x), rate: y.value.invert(press.y) }),
  pan(dx) {
    const metres = (-dx * (domain.value[1] - domain.value[0])) / Math.max(width.value - LEFT - 12, 1)
    domain.value = [domain.value[0] + metres, domain.value[1] + metres]
  },
})
function grab(event: PointerEvent, b: TurnedBend, place: BendPlace) {
  bench.choosePi(b.pi)
  drag.down(event, bendGrip(bench, b, place, base(b, place), drag.pressOf(event)))
}
function nudge(event: KeyboardEvent, b: TurnedBend, place: BendPlace) {
  const way = arrowOf(event.key)
  if (way) stepBend(bench, event, b, place, base(b, place), way)
}
function zoom(event: WheelEvent) {
  const s = x.value.invert(event.offsetX)
  const f = Math.exp(event.deltaY * 0.0014)
  const [a, b] = domain.value
  if ((b - a) * f > 5) domain.value = [s - (s - a) * f, s + (b - s) * f]
}
</script>

<template>
  <ViewFrame id="crossfall" title="Crossfall" :notice="bench.problems.value.line?.sentence">
    <template #tools><StageTables /><button class="btn quiet" @click="domain = [...bench.limits.value]">Show all</button></template>
    <template #told><span v-if="told" data-test="crossfall-told">{{ bench.station(ui.mark) }} &nbsp; {{ told }}</span></template>
    <div ref="host" class="host">
      <svg v-if="turning?.station.length && width > 60" data-test="crossfall-canvas" @wheel.prevent="zoom"
          @pointerdown="drag.down($event)" @pointermove="drag.move" @pointerup="drag.up" @dblclick="bench.setMark(drag.placeOf($event).s)">
        <defs><clipPath id="crossfall-plot"><rect :x="LEFT" y="0" :width="Math.max(width - LEFT - 10, 1)" :height="height"
            /></clipPath></defs>
        <g class="grid">
          <g v-for="t in ticks" :key="t"><path :d="`M${LEFT} ${y(t)}H${width - 12}`" :class="{ zero: t === 0 }" /><text :x="LEFT - 6"
              :y="y(t) + 4" text-anchor="end">{{ formatNumber(100 * t, 0, true) }} %</text></g>
          <template v-for="c in columns" :key="c"><path v-if="x(c) > LEFT" :d="`M${x(c)} 8V${height - 22}`" /><text
              v-if="x(c) > LEFT + 8 && x(c) < width - 30" :x="x(c)" :y="height - 8"
              text-anchor="middle">{{ bench.station(c, 0) }}</text></template>
        </g>
        <g clip-path="url(#crossfall-plot)">
          <rect v-for="b in turning.bends" :key="b.pi" :x="x(points(b)[0])" y="8" :width="Math.max(x(points(b)[1]) - x(points(b)[0]), 1)"
              :height="Math.max(height - 30, 1)" class="bend" :class="{ on: b.pi === chosen }" />
          <path :d="path(turning.left)" class="left" data-test="crossfall-left" /><path :d="path(turning.right)" class="right"
              data-test="crossfall-right" />
          <text v-for="b in turning.bends" :key="`t${b.pi}`" :x="x((b.full_in + b.full_out) / 2)" :y="y(b.rate) - 7" text-anchor="middle"
              class="rate">PI {{ b.pi + 1 }}: {{ formatNumber(100 * b.rate, 1) }} %{{ b.pinned ? ' pinned' : '' }}</text>
          <path :d="`M${x(ui.mark)} 8V${height - 22}`" class="mark" />
          <g
            v-for="h in handles" :key="`${h.b.pi}-${h.place}`" :transform="`translate(${h.x} ${h.y})`" class="handle"
            :class="{ fixed: !bench.canEdit.value, pinned: h.b.pinned }" role="button" :tabindex="bench.canEdit.value ? 0 : undefined"
            :aria-label="`PI ${h.b.pi + 1}, ${NAMES[h.place]}, ${bench.station(h.b[h.place])}`"
            :data-test="`bend-${h.b.pi + 1}-${h.place}`" @pointerdown.stop="grab($event, h.b, h.place)"
            @keydown="nudge($event, h.b, h.place)"
            @focus="bench.choosePi(h.b.pi)"
          ><title>PI {{ h.b.pi + 1 }}: {{ NAMES[h.place] }}.
          {{ h.place.startsWith('full') ? 'Drag along to move it, up or down to change the crossfall.'
            : 'Drag along to move it.' }}</title><rect
              x="-4.5" y="-4.5" width="9" height="9" transform="rotate(45)" /></g>
        </g>
        <g class="key"><path :d="`M${width - 150} 14h18`" class="left" /><text :x="width - 128" y="18">left</text><path
            :d="`M${width - 84} 14h18`" class="right" /><text :x="width - 62" y="18">right</text></g>
      </svg>
      <EmptyNote v-else-if="turning?.off"
          text="The bends of this road keep the template's own crossfall. Switch turning on beside this view." />
      <EmptyNote v-else-if="bench.settled.value"
          text="No bend of this road turns its crossfall: it has no bend, no template with a lane, or radii so large that the normal fall
          stays." />
    </div>
  </ViewFrame>
</template>

<style scoped>
.host, svg { position: absolute; inset: 0; width: 100%; height: 100%; touch-action: none; }
.grid path { stroke: #ece6d9; }
.grid .zero { stroke: var(--faded); }
.grid text, .key text { font-size: 11px; fill: var(--faded); }
.bend { fill: var(--petrol); fill-opacity: 0.05; }
.bend.on { fill-opacity: 0.13; }
.left, .right { fill: none; stroke: var(--petrol); stroke-width: 1.75; }
.right { stroke: var(--earth); stroke-dasharray: 7 3; }
.rate { font-size: 12px; fill: var(--ink); paint-order: stroke; stroke: #fff; stroke-width: 3px; }
.mark { stroke: var(--ochre); stroke-width: 1.5; }
.handle { cursor: grab; }
.handle.fixed { pointer-events: none; }
.handle rect { fill: #fff; stroke: var(--ochre); stroke-width: 1.5; }
.handle.pinned rect { fill: var(--ochre); }
.handle:focus-visible { outline: none; }
.handle:focus-visible rect { stroke: var(--petrol); stroke-width: 3; }
</style>
