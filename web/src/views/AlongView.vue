<script setup lang="ts">
/**
 * What varies along the road: every range as a bar over the chainage, its ends dragged; and under them one quantity along the road,
 * its adjusted values dragged up and down.
 */
import { useElementSize } from '@vueuse/core'
import { scaleLinear } from 'd3-scale'
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { AlongRow } from '@/api/types'
import EmptyNote from '@/components/EmptyNote.vue'
import StageTables from '@/components/StageTables.vue'
import ViewFrame from '@/components/ViewFrame.vue'
import { KIND_NAMES, useAlong, useQuantity } from '@/composables/useAlong'
import { bandInterval } from '@/composables/useLongSection'
import { useWorkbench } from '@/composables/workbench'
import { decimalsOf, sayParameter } from '@/lib/parameter'
import { useUi } from '@/stores/ui'
import { arrowOf } from '@/tools/drag'
import { ENDS, endGrip, stepAlong, valueGrip, type AlongPlace, type RangeEnd, type RangeValue } from '@/tools/along/rangeGrip'
import { useDrag } from '@/tools/useDrag'

const bench = useWorkbench()
const ui = useUi()
const along = useAlong(bench)
const host = useTemplateRef<HTMLElement>('host')
const { width, height } = useElementSize(host)
const LEFT = 104
const BAR = 20 // px a row of bars

// --- the chainage -------------------------------------------------------------------------------------
const domain = ref<[number, number]>([0, 1])
watch(
  () => bench.limits.value.join(),
  () => (domain.value = [...bench.limits.value]),
  { immediate: true },
)
const x = computed(() => scaleLinear(domain.value, [LEFT, Math.max(width.value - 14, LEFT + 1)]))
const perPixel = computed(() => (domain.value[1] - domain.value[0]) / Math.max(width.value - LEFT - 14, 1))
const columns = computed(() => {
  const step = bandInterval(perPixel.value)
  const first = Math.ceil(domain.value[0] / step)
  return Array.from({ length: Math.max(Math.floor(domain.value[1] / step) - first + 1, 0) }, (_, i) => (first + i) * step)
})

// --- bars: rows of a kind that overlap stand under one another ---------------------------------------------
const lanes = computed(() => {
  const out: { kind: AlongRow['kind']; name: string; rows: AlongRow[] }[] = []
  for (const kind of Object.keys(KIND_NAMES) as AlongRow['kind'][]) {
    const stacks: AlongRow[][] = []
    for (const r of along.rows.value.filter((q) => q.kind === kind)) {
      const free = stacks.find((s) => s[s.length - 1]!.station_to <= r.station_from + 1e-6)
      if (free) free.push(r)
      else stacks.push([r])
    }
    stacks.forEach((rows, i) => out.push({ kind, name: i ? '' : KIND_NAMES[kind], rows }))
  }
  return out
})
const sideWord = (r: AlongRow) => (r.side !== 'both' && ['adjustment', 'change'].includes(r.kind) ? `${r.side}: ` : '')
const blends = (r: AlongRow) => {
  const data = r.data as Record<string, { length: number; lies: string } | undefined>
  const out: [number, number][] = []
  const share = (lies: string) => ({ outside: 1, about: 0.5, inside: 0 })[lies] ?? 1
  const a = data.blend_from
  const b = data.blend_to
  if (a) out.push([r.station_from - share(a.lies) * a.length, r.station_from + (1 - share(a.lies)) * a.length])
  if (b) out.push([r.station_to - (1 - share(b.lies)) * b.length, r.station_to + share(b.lies) * b.length])
  return out
}

// --- one quantity along the road -------------------------------------------------------------------------
const picked = ref<{ side: 'left' | 'right'; part: string; parameter: string } | null>(null)
const offered = computed(() =>
  (['left', 'right'] as const).flatMap((side) =>
    (along.built.value[side] ?? []).flatMap((p) =>
      p.parameters
        .filter((q) => q.kind !== 'choice')
        .map((q) => ({ key: `${side}/${p.id}/${q.name}`, words: `${side}: ${p.label}, ${q.label.toLowerCase()}`, kind: q.kind })),
    ),
  ),
)
const keyOf = (q: { side: string; part: string; parameter: string }) => `${q.side}/${q.part}/${q.parameter}`
/** What was picked, else that of the adjustment in hand, else the first width. */
const asked = computed(() => {
  const row = along.chosen.value
  const data = row?.data as { part?: string; parameter?: string } | undefined
  const ofRow =
    row?.kind === 'adjustment'
      ? { side: row.side === 'right' ? ('right' as const) : ('left' as const), part: data!.part!, parameter: data!.parameter! }
      : null
  const q = ofRow ?? picked.value
  if (q && offered.value.some((o) => o.key === keyOf(q))) return q
  const first = offered.value[0]?.key.split('/')
  return first ? { side: first[0] as 'left' | 'right', part: first[1]!, parameter: first[2]! } : null
})
function pick(key: string) {
  const [side, part, parameter] = key.split('/') as ['left' | 'right', string, string]
  picked.value = { side, part, parameter }
  if (along.chosen.value?.kind === 'adjustment') ui.selection = null
}
const quantity = useQuantity(bench, () => asked.value)
const kind = computed(() => offered.value.find((o) => asked.value && o.key === keyOf(asked.value))?.kind ?? 'length')
const top = computed(() => 6 + Math.max(lanes.value.length, 1) * BAR + 10)
const values = computed(() => (quantity.drawn.value?.rows ?? []).flatMap(([, v]) => (v === null ? [] : [v])))
const y = computed(() => {
  const low = Math.min(...values.value),
    high = Math.max(...values.value)
  const room = Math.max((high - low) * 0.25, Math.abs(high) * 0.15, kind.value === 'percent' ? 0.005 : 0.1)
  return scaleLinear([low - room, high + room], [Math.max(height.value - 26, top.value + 8), top.value + 12])
})
const ticks = computed(() => (values.value.length && height.value - top.value > 70 ? y.value.ticks(4) : []))
const path = computed(() => {
  let out = ''
  let pen = false
  for (const [s, v] of quantity.drawn.value?.rows ?? []) {
    if (v !== null) out += `${pen ? 'L' : 'M'}${x.value(s).toFixed(1)} ${y.value(v).toFixed(1)}`
    pen = v !== null
  }
  return out
})
/** Handles of the adjustments of the quantity that is drawn. */
const handles = computed(() =>
  (values.value.length ? along.rows.value : [])
    .filter((r) => {
      const d = r.data as { part?: string; parameter?: string; form?: string; value?: unknown }
      const q = asked.value
      return (
        r.kind === 'adjustment' && q && d.part === q.part && d.parameter === q.parameter && ['both', q.side].includes(r.side) &&
        d.form !== 'table' && typeof d.value === 'number'
      ) // prettier-ignore
    })
    .flatMap((r) => {
      const d = r.data as { form: string; value: number; value_to?: number }
      const at = (name: RangeValue, s: number, v: number) => ({ r, name, s, v })
      return d.form === 'linear'
        ? [at('value', r.station_from, d.value), at('value_to', r.station_to, d.value_to ?? d.value)]
        : [at('value', (r.station_from + r.station_to) / 2, d.value)]
    }),
)

// --- the pointer -------------------------------------------------------------------------------------------
const drag = useDrag<AlongPlace>(bench.desk, host, {
  place: (press) => ({ s: x.value.invert(press.x), v: y.value.invert(press.y) }),
  pan(dx) {
    const metres = -dx * perPixel.value
    domain.value = [domain.value[0] + metres, domain.value[1] + metres]
  },
})
const end = (r: AlongRow, name: RangeEnd) =>
  endGrip<AlongPlace>(
    bench,
    r,
    name,
    (at) => at.s,
    () => ({ at: along.catches(r.id), perPixel: perPixel.value }),
    () => asked.value,
  )
function grab(event: PointerEvent, r: AlongRow, name: RangeEnd | RangeValue) {
  along.choose(r.id)
  const grip = name === 'value' || name === 'value_to'
    ? valueGrip(bench, r, name, kind.value === 'percent' ? 4 : decimalsOf(kind.value), () => asked.value)
    : end(r, name) // prettier-ignore
  drag.down(event, grip)
}
function nudge(event: KeyboardEvent, r: AlongRow, name: RangeEnd | RangeValue) {
  const way = arrowOf(event.key)
  if (!way) return
  const isValue = name === 'value' || name === 'value_to'
  stepAlong(bench, event, r, name, isValue ? way[1] * (kind.value === 'percent' ? 0.001 : 0.05) : way[0], () => asked.value)
}
function zoom(event: WheelEvent) {
  const s = x.value.invert(event.offsetX)
  const f = Math.exp(event.deltaY * 0.0014)
  const [a, b] = domain.value
  if ((b - a) * f > 5) domain.value = [s - (s - a) * f, s + (b - s) * f]
}
const told = computed(() => {
  const rows = quantity.drawn.value?.rows ?? []
  const i = rows.findLastIndex(([s], k) => k + 1 < rows.length && s <= ui.mark && ui.mark <= rows[k + 1]![0]) // at a step the one ahead
  if (i < 0) return ''
  const [[a, p], [b, q]] = [rows[i]!, rows[i + 1]!]
  if (p === null || q === null) return 'not built here'
  return sayParameter(kind.value, b > a ? p + ((q - p) * (ui.mark - a)) / (b - a) : q)
})
/** As much of what a row says as its bar has room for. */
function barText(r: AlongRow) {
  const text = sideWord(r) + r.said
  const room = Math.floor((wide(r) - 12) / 6)
  return text.length > room ? `${text.slice(0, Math.max(room - 1, 1)).trimEnd()}…` : text
}
const wide = (r: AlongRow) => Math.max(x.value(r.station_to) - x.value(r.station_from), 2)
</script>

<template>
  <ViewFrame id="along" title="Along the road" :notice="bench.problems.value.road?.sentence">
    <template #tools><StageTables />
      <select v-if="asked" class="field quantities" aria-label="Quantity" data-test="along-quantity" :value="keyOf(asked)"
          @change="pick(($event.target as HTMLSelectElement).value)"><option v-for="o in offered" :key="o.key"
          :value="o.key">{{ o.words }}</option></select>
      <button class="btn quiet" @click="domain = [...bench.limits.value]">Show all</button></template>
    <template #told><span v-if="told" data-test="along-told">{{ bench.station(ui.mark) }} &nbsp; {{ told }}</span></template>
    <div ref="host" class="host">
      <svg v-if="bench.design.value?.line && width > 140" data-test="along-canvas" @wheel.prevent="zoom"
          @pointerdown="drag.down($event)" @pointermove="drag.move" @pointerup="drag.up" @dblclick="bench.setMark(drag.placeOf($event).s)">
        <defs><clipPath id="along-plot"><rect :x="LEFT" y="0" :width="Math.max(width - LEFT - 10, 1)" :height="height" /></clipPath></defs>
        <g class="grid"><template v-for="c in columns" :key="c"><path v-if="x(c) > LEFT" :d="`M${x(c)} 4V${height - 20}`" /><text
            v-if="x(c) > LEFT + 8 && x(c) < width - 30" :x="x(c)" :y="height - 6"
            text-anchor="middle">{{ bench.station(c, 0) }}</text></template>
          <template v-for="t in ticks" :key="`v${t}`"><path :d="`M${LEFT} ${y(t)}H${width - 14}`" /><text :x="LEFT - 6" :y="y(t) + 4"
              text-anchor="end">{{ sayParameter(kind, t) }}</text></template></g>
        <text v-if="!lanes.length" :x="LEFT + 8" :y="20" class="faded">The road's template holds all along. Mark a range on the route bar
          (Shift-drag) and add what differs there.</text>
        <g v-for="(lane, i) in lanes" :key="`${lane.kind}${i}`" :transform="`translate(0 ${6 + i * BAR})`">
          <text :x="LEFT - 6" y="14" text-anchor="end" class="lane">{{ lane.name }}</text>
          <g clip-path="url(#along-plot)">
            <g v-for="r in lane.rows" :key="r.id" class="bar" :class="[r.kind, { on: along.chosen.value?.id === r.id }]">
              <path v-for="([a, b], k) in blends(r)" :key="k" :d="`M${x(a)} 17L${x(b)} 2V17Z`" class="blend" />
              <rect :x="x(r.station_from)" y="2" :width="wide(r)" height="15" role="button" :tabindex="0" :data-test="`along-${r.id}`"
                  :aria-label="`${sideWord(r)}${r.said}, ${bench.station(r.station_from)} to ${bench.station(r.station_to)}`"
                  @pointerdown.stop="along.choose(r.id)"
                  @keydown.enter="along.choose(r.id)"><title>{{ sideWord(r) }}{{ r.said }}</title></rect>
              <text v-if="wide(r) > 56" :x="Math.max(x(r.station_from), LEFT) + 6" y="13.5">{{ barText(r) }}</text>
              <rect v-for="e in ENDS" :key="e" class="end" :class="{ fixed: !bench.canEdit.value }" :x="x(r[e]) - 3.5" y="1" width="7"
                  height="17" role="button" :tabindex="bench.canEdit.value ? 0 : undefined" :data-test="`along-${r.id}-${e}`"
                  :aria-label="`${r.said}: ${e === 'station_from' ? 'start' : 'end'}, ${bench.station(r[e])}`"
                  @pointerdown.stop="grab($event, r, e)" @keydown="nudge($event, r, e)" @focus="along.choose(r.id)" />
            </g>
          </g>
        </g>
        <g clip-path="url(#along-plot)">
          <path :d="path" class="quantity" data-test="along-quantity-line" />
          <path :d="`M${x(ui.mark)} 2V${height - 20}`" class="mark" />
          <g v-for="h in handles" :key="`${h.r.id}-${h.name}`" :transform="`translate(${x(h.s)} ${y(h.v)})`" class="handle" role="button"
              :class="{ fixed: !bench.canEdit.value, on: along.chosen.value?.id === h.r.id }"
              :tabindex="bench.canEdit.value ? 0 : undefined" :data-test="`along-${h.r.id}-${h.name}`"
              :aria-label="`${h.r.said}: value ${sayParameter(kind, h.v)}`" @pointerdown.stop="grab($event, h.r, h.name)"
              @keydown="nudge($event, h.r, h.name)" @focus="along.choose(h.r.id)"><title>{{ sayParameter(kind, h.v) }}</title><rect
              x="-4.5" y="-4.5" width="9" height="9" transform="rotate(45)" /></g>
        </g>
      </svg>
      <EmptyNote v-else-if="bench.settled.value && !bench.design.value?.line" text="What varies along a road shows once it has a line." />
    </div>
  </ViewFrame>
</template>

<style scoped>
.host, svg { position: absolute; inset: 0; width: 100%; height: 100%; touch-action: none; user-select: none; }
.quantities { width: 230px; min-height: 26px; padding: 1px 4px; }
.grid path { stroke: #ece6d9; }
.grid text, .lane { font-size: 11px; fill: var(--faded); }
.faded { font-size: 12px; fill: var(--faded); }
.bar > rect:first-of-type { cursor: pointer; }
.bar rect { fill: #cfdccb; stroke: #8ea587; stroke-width: 0.8; }
.bar.adjustment rect { fill: #e9dfc4; stroke: #b39c5c; }
.bar.change rect { fill: #d6dbe6; stroke: #8391ad; }
.bar.led rect { fill: #e6d5d0; stroke: #a9867c; }
.bar.meet rect { fill: #dcd7c6; stroke: #8f8560; }
.bar.follow rect { fill: #d3e2e3; stroke: #6f9a9f; }
.bar.bare rect { fill: #e6e2dc; stroke: #8d867c; stroke-dasharray: 4 2; }
.bar .blend { fill: #cfdccb; fill-opacity: 0.55; stroke: #8ea587; stroke-width: 0.6; stroke-dasharray: 2 2; }
.bar.on rect { stroke: var(--petrol); stroke-width: 1.6; }
.bar text { font-size: 11px; fill: var(--ink); pointer-events: none; }
.bar rect.end { fill: transparent; stroke: none; cursor: ew-resize; }
.bar.on rect.end { fill: var(--ochre); fill-opacity: 0.75; stroke: none; }
.bar rect.end.fixed { pointer-events: none; }
.bar rect:focus-visible, .bar rect.end:focus-visible { outline: none; stroke: var(--petrol); stroke-width: 2.5; }
.quantity { fill: none; stroke: var(--petrol); stroke-width: 1.75; }
.mark { stroke: var(--ochre); stroke-width: 1.5; }
.handle { cursor: ns-resize; }
.handle.fixed { pointer-events: none; }
.handle rect { fill: #fff; stroke: var(--ochre); stroke-width: 1.5; }
.handle.on rect { fill: var(--ochre); }
.handle:focus-visible { outline: none; }
.handle:focus-visible rect { stroke: var(--petrol); stroke-width: 3; }
</style>
