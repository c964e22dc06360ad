<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { watchThrottled } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import { api } from '@/api/client'
import type { GroundReading, SheetList } from '@/api/types'
import { placeAt, stationOf, type LinePoints } from '@/canvas/shared/alongLine'
import { snapLines } from '@/canvas/plan/groundLayers'
import { snapName } from '@/canvas/shared/snap'
import { barLength, toScreen } from '@/canvas/shared/viewTransform'
import EmptyNote from '@/components/EmptyNote.vue'
import GroundOverlay from '@/components/GroundOverlay.vue'
import GroundSection from '@/components/GroundSection.vue'
import JunctionOverlay from '@/components/JunctionOverlay.vue'
import PlanLayers from '@/components/PlanLayers.vue'
import ToolStrip from '@/components/ToolStrip.vue'
import UnderList from '@/components/UnderList.vue'
import ViewFrame from '@/components/ViewFrame.vue'
import { useGround } from '@/composables/useGround'
import { usePlanCanvas } from '@/composables/usePlanCanvas'
import { usePlanPointer } from '@/composables/usePlanPointer'
import { useWorkbench } from '@/composables/workbench'
import { formatNumber } from '@/lib/format'
import { bareLength, sayLand, sayLength, units } from '@/lib/units'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const look = useLook()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const host = useTemplateRef<HTMLElement>('host')
const ground = useGround(bench)
const { view, road, fit, drawn, sharpening } = usePlanCanvas(bench, ground, canvas, host)
const received = () =>
  ground.lines.value && look.shown.mapping ? [snapLines(ground.lines.value, (layer) => look.hiddenLayers[layer] === true)] : []
const on = usePlanPointer(bench, view, host, ground, received)
const { caught, pointer, told, handles, held, panning, tool, work } = on

const reading = ref<GroundReading | null>(null)
let asking = false
watchThrottled(
  pointer,
  async (p) => {
    if (!p || !bench.surface.value?.sources.length || asking || held.value || panning.value) return
    asking = true
    try {
      reading.value = await api.get<GroundReading>(`/surfaces/${bench.surface.value.id}/reading?e=${p.e}&n=${p.n}`)
    } catch {
      reading.value = null // the cursor's level is only shown; the next move asks again
    } finally {
      asking = false
    }
  },
  { throttle: 60 },
)

const line = computed(() => (road.value?.points ?? []) as LinePoints)
const onRoad = computed(() => (told.value && line.value.length ? stationOf(line.value, told.value.e, told.value.n) : null))
const mark = computed(() => {
  const p = placeAt(line.value, ui.mark)
  if (!p) return null
  const [x, y] = toScreen(view.value, p.e, p.n)
  return { x, y, angle: (p.azimuth * 180) / Math.PI }
})
const rangePath = computed(() => {
  if (!ui.range) return ''
  const [a, b] = ui.range
  const inside = line.value.filter((p) => p[0] > a && p[0] < b).map((p) => [p[1], p[2]] as const)
  const ends = [placeAt(line.value, a), placeAt(line.value, b)]
  if (!ends[0] || !ends[1]) return ''
  return [[ends[0].e, ends[0].n] as const, ...inside, [ends[1].e, ends[1].n] as const]
    .map(([e, n]) => toScreen(view.value, e, n).join(','))
    .join(' ')
})
const heldStraights = computed(() =>
  showPis.value
    ? handles.value
        .slice(0, -1)
        .flatMap((h, i) => (bench.design.value?.pis[i]?.straight_held ? [{ key: i, a: h.at, b: handles.value[i + 1]!.at }] : []))
    : [],
)
const tangents = computed(() => handles.value.map((h) => h.at.join(',')).join(' '))
const bar = computed(() => {
  const { metre } = units.value
  const long = barLength((view.value.scale || 1) * metre, 110)
  return { long, px: long * metre * view.value.scale }
})
const editing = computed(() => ui.stage === 'line' && bench.canEdit.value)
const showPis = computed(() => ['line', 'levels'].includes(ui.stage) && handles.value.length > 0)

const sheetsQuery = useQuery({
  queryKey: computed(() => ['sheets', ui.roadId, bench.saved.value?.key, bench.project.value?.ledger.head]),
  queryFn: () => api.get<SheetList>(`/sheet-sets/${bench.sheets.value!.id}/sheets`),
  enabled: computed(() => ui.stage === 'sheets' && !!bench.sheets.value && !!bench.saved.value?.levels),
})
const frames = computed(() =>
  (ui.stage === 'sheets' ? (sheetsQuery.data.value?.frames ?? []) : []).map((f) => ({
    ...f,
    path: f.corners.map(([e, n]) => toScreen(view.value, e, n).join(',')).join(' '),
    label: toScreen(view.value, ...f.corners[0]!),
  })),
)

/** The road's own reason stands before that of those which hang on it: theirs is often the same. */
const notice = computed(() => {
  const { line, levels } = bench.problems.value
  return (line ?? levels)?.sentence || bench.othersWrong.value || (bench.terrainQuery.error.value as Error | null)?.message
})
</script>

<template>
  <ViewFrame id="plan" class="plan" title="Plan" :notice="notice">
    <template #tools>
      <ToolStrip :tools="on.tools" :rest="ui.stage === 'ground' || ui.stage === 'junctions' ? 'Choose' : 'Move'">
        <button v-if="ui.stage === 'line' && bench.canEdit.value" class="btn quiet" :aria-pressed="look.snapping" data-test="snapping"
            title="Lines you draw catch vertices, ends, crossings and lines of what was received; hold Ctrl to let go"
            @click="look.snapping = !look.snapping">Snap {{ look.snapping ? 'on' : 'off' }}</button>
      </ToolStrip>
      <button v-if="ui.stage === 'ground'" class="btn quiet" :class="{ on: look.groundModel }" :aria-pressed="look.groundModel"
          data-test="ground-model" @click="look.groundModel = !look.groundModel">Model</button>
      <button class="btn quiet" data-test="plan-fit" @click="fit()">Show all</button>
    </template>
    <template #told><span v-if="sharpening" role="status">sharpening …</span></template>
    <div ref="host" class="host" :data-drawn="drawn" :data-sharp="!sharpening" :data-others="bench.others.value.length">
      <canvas ref="canvas" />
      <svg
        class="over" :class="{ panning, adding: !!tool?.click }"
        data-test="plan-canvas" :data-shape="bench.design.value?.key" :data-joined="bench.joined.value" @wheel.prevent="on.wheel"
        @pointerdown="on.down($event)" @pointermove="on.move" @pointerup="on.up"
        @pointerleave="pointer = null" @dblclick="on.doubleClick"
      >
        <polygon v-for="f in frames" :key="f.number" :points="f.path" class="frame" />
        <text v-for="f in frames" :key="`t${f.number}`" :x="f.label[0] + 4" :y="f.label[1] - 4"
            class="frame-text">Sheet {{ f.number }}</text>
        <polyline v-if="rangePath" :points="rangePath" class="range" />
        <polyline v-if="showPis" :points="tangents" class="tangent" />
        <line v-for="h in heldStraights" :key="h.key" :x1="h.a[0]" :y1="h.a[1]" :x2="h.b[0]" :y2="h.b[1]" class="held-straight"
            data-test="held-straight" />
        <g v-if="mark" :transform="`translate(${mark.x} ${mark.y}) rotate(${mark.angle})`" class="mark"><path d="M-16 0H16" /><rect x="-5"
            y="-5" width="10" height="10" transform="rotate(45)" /></g>
        <template v-if="showPis">
          <g
            v-for="h in handles" :key="h.index" :transform="`translate(${h.at[0]} ${h.at[1]})`" class="pi"
            :class="{ chosen: ui.selection?.kind === 'pi' && ui.selection.index === h.index, fixed: !editing }"
            :tabindex="editing ? 0 : undefined" role="button" :aria-label="`PI ${h.index + 1}`" :data-test="`pi-${h.index + 1}`"
            @pointerdown.stop="editing && !tool?.click ? on.grabPi($event, h.index) : on.down($event)" @focus="bench.choosePi(h.index)"
            @keydown="on.nudge($event, h.index)"
          >
            <circle r="12" fill="transparent" /><rect x="-5" y="-5" width="10" height="10" transform="rotate(45)" /><text x="10"
                y="14">PI {{ h.index + 1 }}</text>
          </g>
        </template>
        <rect v-if="on.pi.held.value && notice" x="-5" y="-5" width="10" height="10" class="refused"
            :transform="`translate(${toScreen(view, on.pi.held.value.at.easting, on.pi.held.value.at.northing).join(' ')}) rotate(45)`" />
        <JunctionOverlay :view="view" :on="on" />
        <GroundOverlay :view="view" :ground="ground" :on="on" :editing="bench.canEdit.value" />
        <template v-if="ui.proposal">
          <circle v-for="(p, i) in ui.proposal.points" :key="i" :cx="toScreen(view, p[0], p[1])[0]" :cy="toScreen(view, p[0], p[1])[1]"
              r="2.5" class="measured" :class="{ out: ui.proposal.leftOut[i] }" />
          <polyline :points="ui.proposal.line.map((p) => toScreen(view, p[0], p[1]).join(',')).join(' ')" class="proposal"
              data-test="proposal" />
        </template>
        <polyline v-if="on.drawn.value.points.length" :points="on.drawn.value.path" class="draft" />
        <g v-if="caught" :transform="`translate(${toScreen(view, caught.e, caught.n).join(' ')})`" class="caught"
            data-test="caught"><circle r="7" /><text x="11" y="-7">{{ snapName(caught.kind) }}</text></g>
        <circle v-for="(d, i) in on.drawn.value.points" :key="i" :cx="d[0]" :cy="d[1]" r="4" class="draft-dot" />
      </svg>
      <UnderList :under="on.under" />
      <PlanLayers :ground="ground" />
      <div class="readout">
        <span
            v-if="onRoad && Math.abs(onRoad.offset) < 400">{{ bench.station(onRoad.station) }} ·
            {{ bareLength(onRoad.offset, 2, true) }}</span>
        <span v-if="told">E {{ bareLength(told.e, 2) }} &nbsp; N {{ bareLength(told.n, 2) }}</span>
        <span v-if="pointer && reading"
            data-test="cursor-ground">{{ reading.elevation === null ? 'no ground'
              : `${sayLength(reading.elevation, 3)} · ${formatNumber((reading.slope ?? 0) * 100, 1)} %` }}</span>
      </div>
      <svg class="north" width="22" height="40" aria-label="North is up"><path d="M11 3 4 23l7-4 7 4z" /><text x="11" y="37"
          text-anchor="middle">N</text></svg>
      <div v-if="bench.terrain.value || handles.length" class="bar"><span :style="{ width: `${bar.px}px` }"
          />{{ bar.long }} {{ units.length }}</div>
      <EmptyNote v-if="!bench.surface.value?.sources.length && bench.project.value"
          text="There is no ground yet. Bring in survey points or a LandXML surface."
          :action="bench.canEdit.value ? 'Bring in a file' : ''" @go="ui.stage = 'ground'; ui.tool = 'import'" />
      <div v-else-if="ui.stage === 'line' && !bench.road.value && !tool"
          class="hint">Choose <b>Draw road</b> and click its points of intersection; Enter or a double click ends it.</div>
      <GroundSection v-if="work.section.value" :cut="work.section.value.cut" :colour="bench.partBench.colourOf"
          @close="work.section.value = null" />
      <div v-if="work.gathered.value" class="hint low"
          data-test="water-told">{{ work.gathered.value.area ? `${sayLand(work.gathered.value.area)} drain to this place.`
            : 'There is no ground here.' }} {{ work.gathered.value.ponds.length
            ? `${work.gathered.value.ponds.length} ponds stand on the ground, the deepest ` +
              `${sayLength(work.gathered.value.ponds[0]!.depth, 2)}.`
              : 'No pond stands on the ground.' }}</div>
      <div v-if="tool?.hint" class="hint">{{ tool.hint }}</div>
    </div>
  </ViewFrame>
</template>

<style scoped>
.plan { --free-left: 76px; --free-right: 40px; } /* the layers, the north arrow */
.host, canvas, .over { position: absolute; inset: 0; width: 100%; height: 100%; }
.over { touch-action: none; cursor: default; }
.over.panning { cursor: grabbing; }
.over.adding { cursor: crosshair; }
.held-straight { stroke: var(--ochre); stroke-width: 2; pointer-events: none; }
.tangent { fill: none; stroke: var(--ochre); stroke-width: 1; stroke-dasharray: 6 4; pointer-events: none; }
.pi rect { fill: #fff; stroke: var(--ochre); stroke-width: 2; }
.pi.chosen rect { fill: var(--ochre); }
.pi text { pointer-events: none; font-size: 11px; font-weight: 600; fill: var(--ochre-text); paint-order: stroke; stroke: #fff; stroke-width: 3px; }
.pi:not(.fixed) { cursor: move; }
.pi:focus { outline: none; }
.pi:focus-visible rect { stroke: var(--petrol); stroke-width: 3; }
.mark { pointer-events: none; }
.mark rect { fill: var(--ochre); stroke: #fff; stroke-width: 1.5; }
.mark path { stroke: var(--ochre); stroke-width: 2; }
.range { fill: none; stroke: var(--ochre); stroke-opacity: 0.45; stroke-width: 9; stroke-linejoin: round; pointer-events: none; }
.refused { fill: none; stroke: var(--madder); stroke-width: 2; stroke-dasharray: 3 2; pointer-events: none; }
.proposal { fill: none; stroke: var(--petrol); stroke-width: 2.5; stroke-dasharray: 9 4; pointer-events: none; }
.measured { fill: #fff; stroke: var(--earth); pointer-events: none; }
.measured.out { fill: var(--madder); stroke: var(--madder); }
.caught { pointer-events: none; }
.caught circle { fill: none; stroke: var(--madder); stroke-width: 1.5; }
.caught text { font-size: 11px; fill: var(--ink); paint-order: stroke; stroke: #fff; stroke-width: 3px; }
.draft { fill: none; stroke: var(--petrol); stroke-width: 2; stroke-dasharray: 5 3; pointer-events: none; }
.draft-dot { fill: var(--petrol); pointer-events: none; }
.frame { fill: #1d2a330a; stroke: var(--ink); stroke-width: 1; stroke-dasharray: 10 3 2 3; pointer-events: none; }
.frame-text { font-size: 11px; font-weight: 600; pointer-events: none; paint-order: stroke; stroke: #fff; stroke-width: 3px; }
.north { position: absolute; right: 10px; top: 8px; pointer-events: none; }
.north path { fill: var(--ink); }
.north text { font-size: 11px; font-weight: 600; }
.bar {
  position: absolute; left: 12px; bottom: 10px; font-size: 11px; font-weight: 600; display: flex; gap: 6px; align-items: end;
  pointer-events: none; text-shadow: 0 0 3px #fff, 0 0 3px #fff;
}
.bar span { border: solid var(--ink); border-width: 0 1.5px 1.5px; height: 6px; margin-bottom: 4px; }
.hint.low { top: auto; bottom: 36px; }
.readout {
  position: absolute; left: 150px; bottom: 9px; display: flex; gap: 10px; font-size: 11px; white-space: nowrap; font-weight: 500; pointer-events: none;
  text-shadow: 0 0 3px #fff, 0 0 3px #fff, 0 0 3px #fff;
}
.hint {
  position: absolute; left: 50%; top: 10px; transform: translateX(-50%); background: var(--sheet); border: 1px solid var(--rule);
  border-radius: 4px; padding: 5px 12px; font-size: 12px; max-width: 88%; pointer-events: none;
}
</style>
