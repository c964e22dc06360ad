<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, useTemplateRef } from 'vue'
import { api } from '@/api/client'
import type { Acted } from '@/api/types'
import { levelAt, rowsWithin } from '@/canvas/shared/alongLine'
import { cutFillPaths } from '@/canvas/shared/cutFill'
import CrossingNames from '@/components/CrossingNames.vue'
import EmptyNote from '@/components/EmptyNote.vue'
import GuideLines from '@/components/GuideLines.vue'
import NumberField from '@/components/NumberField.vue'
import LevelsPin from '@/components/LevelsPin.vue'
import LongBeside from '@/components/LongBeside.vue'
import HatchDefs from '@/components/HatchDefs.vue'
import ToolStrip from '@/components/ToolStrip.vue'
import UnderList from '@/components/UnderList.vue'
import ViewFrame from '@/components/ViewFrame.vue'
import SightLane from '@/components/SightLane.vue'
import { useLongPointer } from '@/composables/useLongPointer'
import { bandInterval, MARGIN, useLongSection } from '@/composables/useLongSection'
import { GUIDE_WAYS, useGuides } from '@/composables/useGuides'
import { useWorkbench } from '@/composables/workbench'
import { formatGrade, formatNumber } from '@/lib/format'
import { roundStations } from '@/lib/chainage'
import { bareLength, roundTicks, units } from '@/lib/units'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'

const NAMES = 16 // px
const BANDS = ['Ground', 'Design', 'Fill +'] as const
const bench = useWorkbench()
const design = bench.design
const ui = useUi()
const look = useLook()
const host = useTemplateRef<HTMLElement>('host')
const { width, height } = useElementSize(host)
const size = computed(() => ({ width: width.value, height: height.value }))
const LANE = 58 // px
/** Names of what crosses stand over the plot, the lane of sight under it: neither covers what is drawn. */
const room = computed(() => ({
  above: (ui.stage === 'levels' ? NAMES : 0) + (ui.tool === 'guide' ? 30 : 0),
  below: look.sightLane && design.value?.levels ? LANE : 0,
}))
const scales = useLongSection(bench, size, BANDS.length, room)
const { domain, exaggeration, plot, x, y, steeper, zoom, showAll } = scales
const guides = useGuides(bench)
const on = useLongPointer(bench, host, scales, guides)
const { editing, pvis, pointer, told, caught, guideDraft, panning, tool } = on

const ground = computed(() => design.value?.ground ?? [])
const profile = computed(() => design.value?.levels?.points ?? [])
const near = <T extends readonly [number, ...unknown[]]>(points: readonly T[]) => rowsWithin(points, ...domain.value)
function path(points: readonly (readonly (number | null)[])[]): string {
  const [across, up] = [x.value, y.value]
  let text = ''
  let pen = false
  for (const [s, z] of points) {
    if (z === null || z === undefined) pen = false
    else {
      text += `${pen ? 'L' : 'M'}${across(s!).toFixed(1)} ${up(z).toFixed(1)}`
      pen = true
    }
  }
  return text
}
const groundPath = computed(() => path(near(ground.value)))
const designPath = computed(() => path(near(profile.value)))
/** Between design and ground: cut above, fill below; split where they cross. */
const earth = computed(() => {
  const [across, up] = [x.value, y.value]
  return cutFillPaths(near(ground.value), near(profile.value), (at, level) => `${across(at).toFixed(1)} ${up(level).toFixed(1)}`)
})
const tangents = computed(() => path(pvis.value.map((p) => [p.station, p.elevation])))
const grades = computed(() =>
  pvis.value
    .slice(0, -1)
    .map((p, i) => {
      const q = pvis.value[i + 1]!
      const s = (Math.max(p.station + p.half_out, domain.value[0]) + Math.min(q.station - q.half_in, domain.value[1])) / 2
      const z = p.elevation + (p.grade_out ?? 0) * (s - p.station)
      return { x: x.value(s), y: y.value(z), text: formatGrade(p.grade_out), room: x.value(q.station) - x.value(p.station) }
    })
    .filter((g) => g.room > 56 && g.x > plot.value.x0 + 20 && g.x < plot.value.x1 - 20),
)
const levels = computed(() => roundTicks(y.value, Math.max(Math.floor((plot.value.y1 - plot.value.y0) / 34), 2)))
const columns = computed(() => {
  const step = bandInterval((domain.value[1] - domain.value[0]) / Math.max(plot.value.x1 - plot.value.x0, 1))
  const out = []
  for (const s of roundStations([domain.value[0], domain.value[1]], step, bench.equations.value)) {
    if (x.value(s) > plot.value.x1 - 8) break
    if (x.value(s) < plot.value.x0 + 16) continue
    const g = levelAt(ground.value, s),
      d = levelAt(profile.value, s)
    const differ = g === null || d === null ? '–' : bareLength(d - g, 2, true)
    out.push({ s, x: x.value(s), texts: [bareLength(g, 2), bareLength(d, 2), differ] })
  }
  return out
})
const markX = computed(() => x.value(ui.mark))

const fitting = ref(false)
const laidUpon = computed(() => Object.values(bench.saved.value?.built ?? {}).some((parts) => parts?.some((p) => p.upon)))
async function fitToGround(how: { balance?: boolean; overlay?: boolean } = {}) {
  fitting.value = true
  await bench
    .act(() => api.post<Acted>(`/roads/${ui.roadId}/profile/fit`, { ...how, seen: bench.pvisSeen() }))
    .finally(() => (fitting.value = false))
}
const DRAGS = { free: 'drag freely', up: 'drag up and down', along: 'drag along', in: 'drag on the grade in', out: 'drag on the grade out' }
const notice = computed(() => bench.problems.value.levels?.sentence ?? bench.problems.value.ground?.sentence)
</script>

<template>
  <ViewFrame id="long" title="Long section" :notice="notice">
    <template #tools>
      <template v-if="editing">
        <ToolStrip :tools="on.tools" rest="Move" />
        <button class="btn quiet" data-test="fit-profile" :disabled="!design?.line || fitting"
            title="Replace the profile by the best fit to the ground, under the limits of standard and project, through the fixed points"
            @click="fitToGround()">Fit to ground</button>
        <button class="btn quiet" data-test="fit-balanced" :disabled="!design?.line || fitting"
            title="The best fit whose cut and fill balance"
            @click="fitToGround({ balance: true })">{{ fitting ? 'Fitting …' : 'Fit balanced' }}</button>
        <button v-if="laidUpon" class="btn quiet" data-test="fit-overlay" :disabled="fitting"
            title="The profile of least volume at which the overlay keeps its thickness on the road that is there"
            @click="fitToGround({ overlay: true })">Fit overlay</button>
        <select v-model="look.pviDrag" class="exaggeration" aria-label="How PVIs are dragged" title="How PVIs are dragged"
            data-test="pvi-drag" style="width: 112px"><option v-for="(name, k) in DRAGS" :key="k" :value="k">{{ name }}</option></select>
      </template>
      <button class="btn quiet" :aria-pressed="look.sightLane" :class="{ on: look.sightLane }" data-test="sight"
          :disabled="!design?.levels" title="What a driver sees ahead and back, against what is needed to stop"
          @click="look.sightLane = !look.sightLane">Sight</button>
      <button class="btn quiet" @click="showAll()">Show all</button>
    </template>
    <template #told>
      <LevelsPin />
      <span v-if="told">{{ bench.station(told.s) }} &nbsp; {{ bareLength(told.z, 2) }}</span>
      <label><select v-model="exaggeration" class="exaggeration" aria-label="Vertical exaggeration" data-test="exaggeration">
        <option v-for="e in [1, 2, 5, 10, 20, 50]" :key="e" :value="e">{{ e }} × vertical</option><option
            value="fit">fit ({{ formatNumber(steeper, steeper < 10 ? 1 : 0) }} ×)</option>
      </select></label>
    </template>
    <div ref="host" class="host">
      <svg v-if="design?.line && width > 60" class="long" :class="{ panning, adding: !!tool }" data-test="long-canvas"
          :data-shape="design.key"
          @wheel.prevent="zoom(on.placeOf($event).s, Math.exp($event.deltaY * 0.0014))" @pointerdown="on.down($event)"
          @pointermove="on.move" @pointerup="on.up" @pointerleave="pointer = null" @dblclick="bench.setMark(on.placeOf($event).s)">
        <HatchDefs view="long" />
        <defs>
          <clipPath id="long-plot"><rect :x="plot.x0" :y="plot.y0" :width="plot.x1 - plot.x0" :height="plot.y1 - plot.y0" /></clipPath>
        </defs>
        <g class="grid">
          <g v-for="l in levels" :key="l.at"><path :d="`M${plot.x0} ${y(l.at)}H${plot.x1}`" /><text :x="plot.x0 - 6" :y="y(l.at) + 4"
              text-anchor="end">{{ l.text }}</text></g>
          <path v-for="c in columns" :key="c.s" :d="`M${c.x} ${plot.y0}V${plot.y1}`" />
        </g>
        <g clip-path="url(#long-plot)">
          <path :d="earth.cut" fill="url(#cut-long)" /><path :d="earth.fill" fill="url(#fill-long)" />
          <rect v-if="ui.range" :x="x(ui.range[0])" :y="plot.y0" :width="Math.max(x(ui.range[1]) - x(ui.range[0]), 1)"
              :height="plot.y1 - plot.y0" class="range" />
          <path :d="groundPath" class="ground" />
          <path v-if="editing" :d="tangents" class="tangent" />
          <LongBeside v-if="ui.stage === 'levels'" :x="x" :y="y" />
          <path :d="designPath" class="design" :class="{ stale: notice }" data-test="design-line" />
          <GuideLines v-if="ui.stage === 'levels'" :guides="guides" :x="x" :y="y" :domain="domain" :draft="guideDraft" :snapped="caught" />
          <text v-for="g in grades" :key="g.x" :x="g.x" :y="g.y - 8" class="grade">{{ g.text }}</text>
        </g>
        <SightLane v-if="look.sightLane && design.levels" :x="x" :x0="plot.x0" :x1="plot.x1" :top="plot.y1 + 4" :height="LANE - 6" />
        <CrossingNames v-if="ui.stage === 'levels'" :x="x" :y="y" :plot="plot" />
        <g class="bands" :transform="`translate(0 ${room.below})`">
          <g v-for="(b, i) in BANDS" :key="b">
            <path :d="`M0 ${plot.y1 + 6 + i * MARGIN.band}H${plot.x1}`" />
            <text x="6" :y="plot.y1 + 19 + i * MARGIN.band" class="faded">{{ b }}</text>
            <text v-for="c in columns" :key="c.s" :x="c.x" :y="plot.y1 + 19 + i * MARGIN.band" text-anchor="middle">{{ c.texts[i] }}</text>
          </g>
          <text v-for="c in columns" :key="`s${c.s}`" :x="c.x" :y="plot.y1 + 20 + BANDS.length * MARGIN.band" text-anchor="middle"
              class="station">{{ bench.station(c.s, 0) }}</text>
        </g>
        <g v-if="markX >= plot.x0 && markX <= plot.x1" class="mark" @pointerdown.stop="on.down($event, on.markGrip)"><rect :x="markX - 5"
            :y="plot.y0" width="10" :height="plot.y1 - plot.y0" fill="transparent" /><path
            :d="`M${markX} ${plot.y0}V${plot.y1 + room.below + BANDS.length * MARGIN.band + 6}`" /></g>
        <rect v-if="on.pvi.held.value && notice" x="-5" y="-5" width="10" height="10" class="refused"
            :transform="`translate(${x(on.pvi.held.value.s)} ${y(on.pvi.held.value.z)}) rotate(45)`" />
        <g v-if="ui.stage === 'levels' || ui.stage === 'junctions'" clip-path="url(#long-plot)">
          <g
            v-for="(p, i) in pvis" :key="p.id" :transform="`translate(${x(p.station)} ${y(p.elevation)})`" class="pvi"
            :class="{ chosen: ui.selection?.kind === 'pvi' && ui.selection.id === p.id, fixed: !editing, follows: design.levels_follow }"
            :tabindex="editing ? 0 : undefined" role="button" :aria-label="`PVI ${i + 1}`" :data-test="`pvi-${i + 1}`"
            @pointerdown.stop="on.grab($event, p)" @focus="ui.selection = { kind: 'pvi', id: p.id }" @keydown="on.nudge($event, p)"
          >
            <circle r="11" fill="transparent" /><rect x="-5" y="-5" width="10" height="10" transform="rotate(45)" />
          </g>
        </g>
      </svg>
      <UnderList :under="on.under" />
      <div v-if="guides.active.value" class="making" data-test="guide-making">
        <select v-model="guides.kind.value" class="field" aria-label="How the guide line is made" data-test="guide-kind"><option
            v-for="[k, name] in GUIDE_WAYS" :key="k" :value="k">{{ name }}</option></select>
        <NumberField v-if="guides.kind.value === 'grade'" compact label="Gradient" kind="grade" :decimals="3"
            :model-value="guides.grade.value" test="guide-grade" @change="(v) => v !== null && (guides.grade.value = v)" />
        <NumberField v-if="guides.kind.value === 'parallel'" compact label="Raised or lowered by" unit="m"
            :model-value="guides.rise.value" test="guide-rise" @change="(v) => v !== null && (guides.rise.value = v)" />
        <NumberField v-if="guides.kind.value === 'profile'" compact label="Whole profile raised by" unit="m" :model-value="null"
            test="guide-profile" @change="(v) => v !== null && guides.besideProfile(v)" />
        <span class="faded">{{ guides.kind.value === 'grade' ? '%' : guides.kind.value === 'points' ? '' : units.length }}
            {{ GUIDE_WAYS.find(([k]) => k === guides.kind.value)![2] }}</span>
      </div>
      <EmptyNote v-if="bench.project.value && bench.settled.value && !design?.line"
          text="The road has no line yet. Draw it in stage 2 and its long section stands here." action="Go to Line"
          @go="ui.stage = 'line'" />
      <EmptyNote v-else-if="design?.line && !design.levels && ui.stage === 'levels'"
          :text="
            ground.length ? 'There is no profile yet. Fit one to the ground, then drag its PVIs.' : 'There is no ground under the line.'
          "
          :action="bench.canEdit.value && ground.length ? 'Fit to ground' : ''" @go="fitToGround()" />
    </div>
  </ViewFrame>
</template>

<style scoped>
.host { position: absolute; inset: 0; }
.long { position: absolute; inset: 0; width: 100%; height: 100%; font-size: 11px; touch-action: none; user-select: none; }
.long.panning { cursor: grabbing; }
.long.adding { cursor: crosshair; }
.grid path { stroke: #ebe5d8; }
.grid text { font-size: 11px; font-weight: 500; }
.ground { fill: none; stroke: var(--earth); stroke-width: 1.4; }
.design { fill: none; stroke: var(--petrol); stroke-width: 2; }
.design.stale { stroke: #8b979d; }
.tangent { fill: none; stroke: var(--ochre); stroke-width: 1; stroke-dasharray: 4 3; }
.grade { fill: var(--petrol); font-weight: 600; text-anchor: middle; paint-order: stroke; stroke: #fff; stroke-width: 3px; }
.range { fill: var(--ochre); fill-opacity: 0.12; }
.bands path { stroke: var(--rule); }
.bands text { font-size: 11px; }
.bands .faded, .bands .station { fill: var(--faded); }
.mark { cursor: ew-resize; }
.mark path { stroke: var(--ochre); stroke-width: 1.8; }
.pvi rect { fill: #fff; stroke: var(--ochre); stroke-width: 2; }
.pvi.chosen rect { fill: var(--ochre); }
.pvi.follows rect { stroke: var(--petrol); }
.pvi.follows.chosen rect { fill: var(--petrol); }
.pvi:not(.fixed) { cursor: move; }
.pvi:focus { outline: none; }
.pvi:focus-visible rect { stroke: var(--petrol); stroke-width: 3; }
.refused { fill: none; stroke: var(--madder); stroke-width: 2; stroke-dasharray: 3 2; pointer-events: none; }
.making {
  position: absolute; left: 66px; top: 4px; right: 16px; display: flex; gap: 8px; align-items: center; background: #ffffffee;
  border: 1px solid var(--rule); border-radius: 4px; padding: 3px 8px; font-size: 12px;
}
.making > .field { width: 150px; min-height: 24px; padding: 1px 4px; }
.making :deep(.number) { width: 84px; }
.exaggeration { border: 0; background: none; color: var(--faded); font-size: 12px; cursor: pointer; }
</style>
