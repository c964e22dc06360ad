<script setup lang="ts">
/** The whole road on one line: bends, grades, findings; the reading mark is dragged, stepped or typed; Shift-drag marks a range. */
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import { levelAt, placeAt, type LinePoints } from '@/canvas/shared/alongLine'
import { useWorkbench } from '@/composables/workbench'
import { formatGrade } from '@/lib/format'
import { readingsOf, type Reading } from '@/lib/numbers'
import { countedAt, roundStations } from '@/lib/chainage'
import { bareLength, units } from '@/lib/units'
import { useUi } from '@/stores/ui'
import type { AlongRow } from '@/api/types'
import { useAlong } from '@/composables/useAlong'
import { ENDS, endGrip, stepAlong, type RangeEnd } from '@/tools/along/rangeGrip'
import { arrowOf, type Grip } from '@/tools/drag'
import { useDrag } from '@/tools/useDrag'

const bench = useWorkbench()
const ui = useUi()
const host = useTemplateRef<HTMLElement>('host')
const { width } = useElementSize(host)
const LEFT = 72
const line = computed(() => bench.design.value?.line ?? null)
const x = (s: number) =>
  LEFT + ((s - bench.limits.value[0]) / Math.max(bench.limits.value[1] - bench.limits.value[0], 1e-6)) * (width.value - LEFT - 20)
const s = (px: number) =>
  bench.limits.value[0] + ((px - LEFT) / Math.max(width.value - LEFT - 20, 1)) * (bench.limits.value[1] - bench.limits.value[0])

/** A bump up for right and down for left, its height by curvature. */
const bends = computed(() => {
  const points = line.value?.points ?? []
  const most = Math.max(...points.map((p) => Math.abs(p[4])), 1e-6)
  return points.map((p, i) => `${i ? 'L' : 'M'}${x(p[0]).toFixed(1)} ${(13 - (p[4] / most) * 7).toFixed(1)}`).join('')
})
const trace = computed(() => {
  const points = bench.design.value?.levels?.points ?? []
  if (!points.length) return ''
  const z = points.map((p) => p[1])
  const low = Math.min(...z),
    high = Math.max(...z)
  return points
    .map((p, i) => `${i ? 'L' : 'M'}${x(p[0]).toFixed(1)} ${(35 - ((p[1] - low) / Math.max(high - low, 1)) * 11).toFixed(1)}`)
    .join('')
})
const ticks = computed(() => {
  const [a, b] = bench.limits.value
  const { metre } = units.value
  const minor =
    metre *
    ([10, 20, 50, 100, 200, 500, 1000, 2000, 5000].find((t) => ((width.value - LEFT) * t * metre) / Math.max(b - a, 1) >= 14) ?? 10_000)
  return roundStations([a, b], minor, bench.equations.value).map((v) => ({
    v,
    x: x(v),
    major: Math.round(countedAt(v, bench.equations.value) / minor) % 5 === 0,
  }))
})
const flags = computed(() => (bench.design.value?.findings ?? []).filter((f) => f.station_from !== null))
const grade = computed(() => {
  const points = bench.design.value?.levels?.points
  return points
    ? levelAt(
        points.map((p) => [p[0], p[2]] as [number, number]),
        ui.mark,
      )
    : null
})
const bend = computed(() => {
  const points = line.value?.points
  if (!points || !placeAt(points as LinePoints, ui.mark)) return ''
  const k =
    levelAt(
      points.map((p) => [p[0], p[4]] as [number, number]),
      ui.mark,
    ) ?? 0
  return Math.abs(k) < 5e-5 ? 'straight' : `R ${bareLength(1 / Math.abs(k), 0)} ${k > 0 ? 'right' : 'left'}`
})

const within = (px: number) => Math.min(Math.max(s(px), bench.limits.value[0]), bench.limits.value[1])
const drag = useDrag<number>(bench.desk, host, {
  place: (press) => within(press.x),
  click: (at, press) => !press.shift && bench.setMark(at),
})
const markGrip: Grip<number, number> = { id: 'mark', to: (at) => at, tryOut: bench.setMark }
/** From where it was pressed to where it is. */
function rangeGrip(from: number): Grip<number, [number, number]> {
  return {
    id: 'range',
    to: (at) => [Math.round(Math.min(from, at) * 100) / 100, Math.round(Math.max(from, at) * 100) / 100],
    tryOut: (ends) => (ui.range = ends[1] - ends[0] > 1 ? ends : null),
  }
}
function down(event: PointerEvent) {
  if (!line.value || event.button !== 0) return
  const at = drag.placeOf(event)
  if (!event.shiftKey) bench.setMark(at)
  drag.down(event, event.shiftKey ? rangeGrip(at) : markGrip)
}
/** Stretches and ranges without earthwork: opened by a click, their ends dragged. */
const along = useAlong(bench)
const spans = computed(() => {
  const ids = bench.project.value?.templates.map((t) => t.id) ?? []
  return along.rows.value
    .filter((r) => r.kind === 'stretch' || r.kind === 'bare')
    .map((r) => ({ ...r, tint: Math.max(ids.indexOf(r.template_id ?? -1), 0) % 4 }))
})
function openSpan(id: number) {
  ui.stage = 'road'
  along.choose(id)
}
const perPixel = () => (bench.limits.value[1] - bench.limits.value[0]) / Math.max(width.value - LEFT - 20, 1)
function grabEnd(event: PointerEvent, r: AlongRow, end: RangeEnd) {
  if (ui.stage === 'road') along.choose(r.id)
  drag.down(event, endGrip<number>(bench, r, end, (at) => at, () => ({ at: along.catches(r.id), perPixel: perPixel() }))) // prettier-ignore
}
function nudgeEnd(event: KeyboardEvent, r: AlongRow, end: RangeEnd) {
  const way = arrowOf(event.key)
  if (way) stepAlong(bench, event, r, end, way[0])
}
const typing = ref<string | null>(null)
const asked = ref<Reading[]>([])
const wrong = ref('')
function commit() {
  const text = typing.value
  typing.value = null
  if (text === null) return
  asked.value = []
  wrong.value = ''
  const readings = readingsOf(text, 'station', bench.style.value.group)
  if (readings.length > 1) asked.value = readings
  else if (!readings.length) wrong.value = `'${text}' is no chainage; type 1+240`
  else go(readings[0]!)
}
function go(reading: Reading) {
  asked.value = []
  const s = bench.stationOf(reading.value * units.value.metre)
  const [a, b] = bench.limits.value
  if (s === null) wrong.value = `There is no chainage ${reading.words}`
  else if (s < a - 0.005 || s > b + 0.005) wrong.value = `${reading.words} lies beyond the road`
  if (s !== null) bench.setMark(s)
}
</script>

<template>
  <footer class="route" aria-label="Route bar">
    <div ref="host" class="lanes">
      <svg v-if="line && width > 100" data-test="route-bar" @pointerdown="down" @pointermove="drag.move" @pointerup="drag.up">
        <g class="names"><text x="64" y="17">Bends</text><text x="64" y="32">Grades</text></g>
        <rect :x="LEFT" y="39" :width="Math.max(width - LEFT - 20, 1)" height="5" class="stretch" />
        <g v-for="r in spans" :key="r.id" class="span" :class="[r.kind, `of-${r.tint}`, { on: along.chosen.value?.id === r.id }]">
          <rect :x="x(r.station_from)" y="38" :width="Math.max(x(r.station_to) - x(r.station_from), 2)" height="7"
              :data-test="`span-${r.id}`" @pointerdown.stop="openSpan(r.id)"><title>{{ r.said }},
              {{ bench.station(r.station_from) }} to {{ bench.station(r.station_to) }}</title></rect>
          <rect v-for="e in ENDS" :key="e" class="span-end" :x="x(r[e]) - 4" y="35" width="8" height="13" role="button"
              :tabindex="bench.canEdit.value ? 0 : undefined" :data-test="`span-${r.id}-${e}`"
              :aria-label="`${r.said}: ${e === 'station_from' ? 'start' : 'end'}, ${bench.station(r[e])}`"
              @pointerdown.stop="grabEnd($event, r, e)" @keydown="nudgeEnd($event, r, e)" /></g>
        <path v-for="t in ticks" :key="t.v" :d="`M${t.x} 44v${t.major ? 6 : 3}`" class="tick" />
        <template v-for="t in ticks" :key="`t${t.v}`"><text v-if="t.major" :x="t.x" y="60"
            class="station">{{ bench.station(t.v, 0) }}</text></template>
        <rect v-if="ui.range" :x="x(ui.range[0])" y="3" :width="x(ui.range[1]) - x(ui.range[0])" height="41" class="range"
            data-test="marked-range" />
        <path v-if="ui.range" :d="`M${x(ui.range[0]) + 4} 3h-4v41h4M${x(ui.range[1]) - 4} 3h4v41h-4`" class="bracket" />
        <path :d="`M${LEFT} 13H${width - 20}`" class="zero" /><path :d="bends" class="trace petrol" /><path :d="trace" class="trace" />
        <g v-for="(f, i) in flags" :key="i" class="flag" :class="f.severity"
            @pointerdown.stop="bench.setMark(f.station_from!); ui.panel = 'findings'"><title>{{ f.sentence }}</title><path
            :d="`M${x(f.station_from!)} 44V2h8l-2 3 2 3h-8`" /></g>
        <g class="mark"><path :d="`M${x(ui.mark)} 2V50`" /><rect :x="x(ui.mark) - 6" y="18" width="12" height="12"
            :transform="`rotate(45 ${x(ui.mark)} 24)`" /></g>
      </svg>
      <p v-else class="none">The route bar shows the whole road once it has a line.</p>
    </div>
    <div class="at">
      <input
        class="station-field" :value="typing ?? bench.station(ui.mark)" :disabled="!line"
        :aria-label="`Reading mark, ${bench.style.value.word.toLowerCase()}`" data-test="reading-mark"
        @focus="($event.target as HTMLInputElement).select()"
        @input="typing = ($event.target as HTMLInputElement).value; wrong = ''; asked = []"
        @keydown.enter="commit(); ($event.target as HTMLInputElement).blur()" @keydown.esc="typing = null; wrong = ''; asked = []"
        @blur="commit"
      />
      <div v-if="asked.length" class="asked" role="alert" data-test="mark-asked">which? <button v-for="r in asked" :key="r.words"
          class="link" @click="go(r)">{{ r.words }}</button></div>
      <div v-else-if="wrong" class="asked" role="alert" data-test="mark-wrong">{{ wrong }}</div>
      <div v-else class="faded"
          data-test="mark-told">{{ line ? `${grade === null ? 'no profile' : `grade ${formatGrade(grade)}`} · ${bend}` : '' }}</div>
    </div>
  </footer>
</template>

<style scoped>
.route { display: grid; grid-template-columns: 1fr 176px; border-top: 1px solid var(--rule); background: var(--paper); height: 66px; }
.lanes { position: relative; min-width: 0; overflow: hidden; }
svg { position: absolute; inset: 0; width: 100%; height: 100%; font-size: 11px; touch-action: none; user-select: none; cursor: pointer; }
.names text { text-anchor: end; fill: var(--faded); }
.station { text-anchor: middle; fill: var(--ink); font-size: 11px; }
.tick { stroke: var(--faded); }
.zero { stroke: var(--rule); }
.trace { fill: none; stroke: var(--ink); stroke-width: 1.3; }
.trace.petrol { stroke: var(--petrol); stroke-width: 1.6; }
.stretch { fill: #cfdccb; }
.span rect { fill: #b9cdd6; stroke: #fff; stroke-width: 1; }
.span.of-1 rect { fill: #d9c59b; }
.span.of-2 rect { fill: #c6bcd8; }
.span.of-3 rect { fill: #d8bcbc; }
.span.bare rect { fill: #8d867c; }
.span.on > rect:first-child { stroke: var(--petrol); stroke-width: 1.5; }
.span rect.span-end { fill: transparent; stroke: none; cursor: ew-resize; }
.span rect.span-end:focus-visible { outline: none; fill: var(--petrol); }
.range { fill: var(--ochre); fill-opacity: 0.13; }
.bracket { fill: none; stroke: var(--ochre); stroke-width: 1.6; }
.flag path { fill: var(--ochre); stroke: var(--ochre); }
.flag.fault path { fill: var(--madder); stroke: var(--madder); }
.mark path { stroke: var(--ochre); stroke-width: 2; }
.mark rect { fill: var(--ochre); stroke: #fff; stroke-width: 1.5; cursor: ew-resize; }
.none { color: var(--faded); margin: 22px 16px; }
.at { text-align: right; padding: 8px 14px 0 8px; }
.at .faded, .asked { font-size: 11px; white-space: nowrap; }
.asked { color: var(--madder); }
.asked .link { margin-left: 6px; font-size: 11px; }
.station-field {
  width: 100%; text-align: right; border: 0; border-radius: 4px; background: none; color: var(--ochre-text); font-size: 20px;
  font-weight: 650; padding: 0 2px;
}
.station-field:focus { background: #fff; outline: 2px solid var(--petrol); }
</style>
