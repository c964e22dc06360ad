<script setup lang="ts">
import { useElementSize, useEventListener } from '@vueuse/core'
import { computed, ref, shallowRef, useTemplateRef } from 'vue'
import { api } from '@/api/client'
import type { PVIRow } from '@/api/types'
import { levelAt, rowsWithin } from '@/canvas/shared/alongLine'
import { cutFillPaths } from '@/canvas/shared/cutFill'
import EmptyNote from '@/components/EmptyNote.vue'
import GuideLines from '@/components/GuideLines.vue'
import NumberField from '@/components/NumberField.vue'
import LongBeside from '@/components/LongBeside.vue'
import HatchDefs from '@/components/HatchDefs.vue'
import ViewFrame from '@/components/ViewFrame.vue'
import SightLane from '@/components/SightLane.vue'
import { bandInterval, MARGIN, useLongSection } from '@/composables/useLongSection'
import { GUIDE_WAYS, useGuides } from '@/composables/useGuides'
import { useWorkbench } from '@/composables/workbench'
import { formatGrade, formatNumber } from '@/lib/format'
import { roundStations } from '@/lib/chainage'
import { useUi } from '@/stores/ui'

const BANDS = ['Ground', 'Design', 'Differ'] as const
const bench = useWorkbench()
const ui = useUi()
const host = useTemplateRef<HTMLElement>('host')
const { width, height } = useElementSize(host)
const size = computed(() => ({ width: width.value, height: height.value }))
const { domain, exaggeration, plot, x, y, steeper, zoom, pan, showAll } = useLongSection(bench, size, BANDS.length)
const editing = computed(() => ui.stage === 'levels' && bench.canEdit.value)

const design = bench.design
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
const pvis = computed(() => design.value?.pvis ?? [])
const tangents = computed(() => path(pvis.value.map((p) => [p.station, p.elevation])))
const grades = computed(() => pvis.value.slice(0, -1).map((p, i) => {
  const q = pvis.value[i + 1]!
  const s = (Math.max(p.station + p.half_out, domain.value[0]) + Math.min(q.station - q.half_in, domain.value[1])) / 2
  const z = p.elevation + (p.grade_out ?? 0) * (s - p.station)
  return { x: x.value(s), y: y.value(z), text: formatGrade(p.grade_out), room: x.value(q.station) - x.value(p.station) }
}).filter((g) => g.room > 56 && g.x > plot.value.x0 + 20 && g.x < plot.value.x1 - 20))
const levels = computed(() => y.value.ticks(Math.max(Math.floor((plot.value.y1 - plot.value.y0) / 34), 2)))
const columns = computed(() => {
  const step = bandInterval((domain.value[1] - domain.value[0]) / Math.max(plot.value.x1 - plot.value.x0, 1))
  const out = []
  for (const s of roundStations([domain.value[0], domain.value[1]], step, bench.equations.value)) {
    if (x.value(s) > plot.value.x1 - 8) break
    if (x.value(s) < plot.value.x0 + 16) continue
    const g = levelAt(ground.value, s), d = levelAt(profile.value, s)
    out.push({ s, x: x.value(s), texts: [formatNumber(g, 2), formatNumber(d, 2), g === null || d === null ? '–' : formatNumber(d - g, 2, true)] })
  }
  return out
})
const guides = useGuides(bench)
const REACH = 40 // px up or down within which a line is chosen to lie parallel to
const perMetre = computed(() => ({ across: (plot.value.x1 - plot.value.x0) / (domain.value[1] - domain.value[0]), up: (plot.value.y1 - plot.value.y0) / Math.abs(y.value.domain()[1]! - y.value.domain()[0]!) }))
const snapAt = (at: { s: number; z: number }) => guides.snap(at, perMetre.value.across, perMetre.value.up)
/** the crossing that holds a dragged PVI */
const heldExact = shallowRef<{ s: number; z: number } | null>(null)
/** What the pointer would catch while something is placed or dragged. */
const caught = computed(() => {
  if (!pointer.value || (ui.tool !== 'add-pvi' && ui.tool !== 'pvi-through' && !guides.active.value)) return heldExact.value
  const at = snapAt(pointer.value)
  return at.exact ? at : null
})
const guideDraft = computed(() => guides.draft(pointer.value && (guides.kind.value === 'parallel' ? pointer.value : snapAt(pointer.value)), REACH / perMetre.value.up))
const markX = computed(() => x.value(ui.mark))

// --- pointer: drag a PVI, add one, pan, set the mark ------------------------------------------------------
type Doing = { kind: 'idle' } | { kind: 'pan'; at: number; moved: boolean } | { kind: 'pvi'; pvi: PVIRow; moved: boolean } | { kind: 'mark' }
const doing = ref<Doing>({ kind: 'idle' })
/** Where the pointer holds the dragged PVI. The picture shows it where the trial put it; this place is drawn only when refused. */
const held = shallowRef({ station: 0, elevation: 0 })
const pointer = ref<{ s: number; z: number } | null>(null)
/** What the head of the view reads out: the dragged PVI as it is drawn, else the pointer. */
const told = computed(() => {
  const d = doing.value
  const p = d.kind === 'pvi' ? pvis.value.find((v) => v.id === d.pvi.id) : null
  return p ? { s: p.station, z: p.elevation } : pointer.value
})
const round = (v: number, d: number) => Math.round(v * 10 ** d) / 10 ** d

function where(event: PointerEvent | MouseEvent | WheelEvent) {
  const box = host.value!.getBoundingClientRect()
  return { s: x.value.invert(event.clientX - box.left), z: y.value.invert(event.clientY - box.top) }
}
function down(event: PointerEvent) {
  if (event.button === 2) return
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  doing.value = { kind: 'pan', at: event.clientX, moved: false }
}
function grab(event: PointerEvent, pvi: PVIRow) {
  ui.selection = { kind: 'pvi', id: pvi.id }
  if (!editing.value || event.button !== 0) return
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  doing.value = { kind: 'pvi', pvi, moved: false }
  pointer.value = null
}
function grabMark(event: PointerEvent) {
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  doing.value = { kind: 'mark' }
}
function move(event: PointerEvent) {
  const at = where(event)
  const d = doing.value
  if (d.kind !== 'pvi') pointer.value = at
  if (d.kind === 'mark') bench.setMark(at.s)
  else if (d.kind === 'pan') {
    const dx = event.clientX - d.at
    if (!d.moved && Math.abs(dx) < 4) return
    pan(-dx / ((plot.value.x1 - plot.value.x0) / (domain.value[1] - domain.value[0])))
    doing.value = { kind: 'pan', at: event.clientX, moved: true }
  } else if (d.kind === 'pvi') {
    const free = !['start', 'end'].includes(d.pvi.anchor)
    const led = guided(d.pvi, free ? at : { s: d.pvi.station, z: at.z })
    const on = ui.pviDrag === 'free' ? snapAt(led) : { ...led, exact: ui.pviDrag !== 'up' && ui.pviDrag !== 'along' }
    heldExact.value = on.exact && ui.pviDrag === 'free' ? { s: on.s, z: on.z } : null
    const station = !free ? d.pvi.station : on.exact && ui.pviDrag === 'free' ? on.s : ui.pviDrag === 'up' ? d.pvi.station : round(led.s, 2)
    const elevation = ui.pviDrag === 'in' || ui.pviDrag === 'out' ? guided(d.pvi, { s: station, z: led.z }).z : on.exact && (free || Math.abs(on.s - station) < 1e-6) ? on.z : round(on.z, 3)
    held.value = { station, elevation }
    if (!d.moved) doing.value = { ...d, moved: true }
    bench.tryOut({ pvi: { id: d.pvi.id, ...(free ? { station } : {}), elevation } })
  }
}
async function up(event: PointerEvent) {
  const d = doing.value
  doing.value = { kind: 'idle' }
  heldExact.value = null
  if (d.kind === 'pan' && !d.moved && event.button === 0) {
    const at = where(event)
    if (guides.active.value) await guides.click(guides.kind.value === 'parallel' ? at : snapped(at), REACH / perMetre.value.up)
    else if (ui.tool === 'add-pvi') await addAt(at)
    else if (ui.tool === 'pvi-through' && ui.selection?.kind === 'pvi') await curveThrough(snapped(at))
    else ui.selection = null
  } else if (d.kind === 'pvi' && d.moved) {
    const free = !['start', 'end'].includes(d.pvi.anchor)
    await bench.act(() => api.patch(`/roads/${ui.roadId}/pvis/${d.pvi.id}`, { revision: bench.revisionOf(d.pvi, 'pvis'), elevation: held.value.elevation, ...(free ? { station: held.value.station } : {}) }))
  }
}
/** Exact on a crossing, else rounded as a person would type it. */
function snapped(at: { s: number; z: number }) {
  const on = snapAt(at)
  return on.exact ? { s: on.s, z: on.z } : { s: round(at.s, 2), z: round(on.z, 3) }
}
async function addAt(at: { s: number; z: number }) {
  const { s, z } = snapped(at)
  await bench.act(() => api.post(`/roads/${ui.roadId}/pvis`, { station: s, elevation: z }))
}
async function curveThrough(at: { s: number; z: number }) {
  const p = pvis.value.find((v) => ui.selection?.kind === 'pvi' && v.id === ui.selection.id)
  if (p) await bench.act(() => api.post(`/roads/${ui.roadId}/pvis/${p.id}/curve`, { revision: bench.revisionOf(p, 'pvis'), station: at.s, level: at.z }))
  ui.tool = ''
}
async function remove(id: number) {
  const p = pvis.value.find((v) => v.id === id)
  if (!p || !editing.value) return
  ui.selection = null
  await bench.act(() => api.delete(`/roads/${ui.roadId}/pvis/${p.id}?revision=${bench.revisionOf(p, 'pvis')}`))
}
function nudge(event: KeyboardEvent, p: PVIRow) {
  const way = { ArrowUp: 1, ArrowDown: -1 }[event.key]
  if (!way || !editing.value) return
  event.preventDefault()
  const by = event.shiftKey ? 1 : event.ctrlKey ? 0.01 : 0.1
  const road = ui.roadId
  bench.bursts.press(
    {
      id: `pvi-${p.id}`,
      tryOut: (elevation: number) => bench.tryOut({ pvi: { id: p.id, elevation } }),
      save: (elevation) => bench.act(() => api.patch(`/roads/${road}/pvis/${p.id}`, { revision: bench.revisionOf(p, 'pvis'), elevation }), { quiet: true }),
    },
    (before) => round((before ?? p.elevation) + way * by, 3),
  )
}
const fitting = ref(false)
async function fitToGround(balance = false) {
  fitting.value = true
  await bench.act(() => api.post(`/roads/${ui.roadId}/profile/fit`, { balance, seen: bench.pvisSeen() })).finally(() => (fitting.value = false))
}
const DRAGS = { free: 'drag freely', up: 'drag up and down', along: 'drag along', in: 'drag on the grade in', out: 'drag on the grade out' }
/** Where a dragged PVI may go: anywhere, only up or along, or on one of the grades that it had. */
function guided(pvi: PVIRow, at: { s: number; z: number }) {
  if (ui.pviDrag === 'up') return { s: pvi.station, z: at.z }
  if (ui.pviDrag === 'along') return { s: at.s, z: pvi.elevation }
  const grade = ui.pviDrag === 'in' ? pvi.grade_in : ui.pviDrag === 'out' ? pvi.grade_out : null
  return grade === null ? at : { s: at.s, z: pvi.elevation + grade * (at.s - pvi.station) }
}
useEventListener('keydown', (event: KeyboardEvent) => {
  if ((event.target as HTMLElement).closest('input, textarea, select')) return
  if (event.key === 'Escape') {
    if (bench.bursts.drop()) return bench.endTrial()
    if (doing.value.kind !== 'pvi') ui.tool = ''
    if (doing.value.kind === 'pvi') bench.endTrial()
    doing.value = { kind: 'idle' }
    heldExact.value = null
  }
  if (event.key === 'Delete' && ui.selection?.kind === 'pvi') void remove(ui.selection.id)
})
const notice = computed(() => bench.problems.value.levels?.sentence ?? bench.problems.value.ground?.sentence)
</script>

<template>
  <ViewFrame id="long" title="Long section" :notice="notice">
    <template #tools>
      <template v-if="editing">
        <button class="btn quiet" :class="{ on: ui.tool === '' }" data-test="tool-move-pvi" @click="ui.tool = ''">Move</button>
        <button class="btn quiet" :class="{ on: ui.tool === 'add-pvi' }" data-test="tool-add-pvi" :disabled="!design?.line" @click="ui.tool = 'add-pvi'">Add PVI</button>
        <button class="btn quiet" :class="{ on: guides.active.value }" data-test="tool-guide" :disabled="!design?.line" title="Lines of a gradient that help to place PVIs" @click="ui.tool = guides.active.value ? '' : 'guide'">Guide line</button>
        <button class="btn quiet" data-test="fit-profile" :disabled="!design?.line || fitting" title="Replace the profile by the best fit to the ground, under the limits of standard and project, through the fixed points" @click="fitToGround()">Fit to ground</button>
        <button class="btn quiet" data-test="fit-balanced" :disabled="!design?.line || fitting" title="The best fit whose cut and fill balance" @click="fitToGround(true)">{{ fitting ? 'Fitting …' : 'Fit balanced' }}</button>
        <select v-model="ui.pviDrag" class="exaggeration" aria-label="How PVIs are dragged" title="How PVIs are dragged" data-test="pvi-drag" style="width: 112px"><option v-for="(name, k) in DRAGS" :key="k" :value="k">{{ name }}</option></select>
      </template>
      <button class="btn quiet" :aria-pressed="ui.sightLane" :class="{ on: ui.sightLane }" data-test="sight" :disabled="!design?.levels" title="What a driver sees ahead and back, against what is needed to stop" @click="ui.sightLane = !ui.sightLane">Sight</button>
      <button class="btn quiet" @click="showAll()">Show all</button>
    </template>
    <template #told>
      <span v-if="told">{{ bench.station(told.s) }} &nbsp; {{ formatNumber(told.z, 2) }}</span>
      <label><select v-model="exaggeration" class="exaggeration" aria-label="Vertical exaggeration" data-test="exaggeration">
        <option v-for="e in [1, 2, 5, 10, 20, 50]" :key="e" :value="e">{{ e }} × vertical</option><option value="fit">fit ({{ formatNumber(steeper, steeper < 10 ? 1 : 0) }} ×)</option>
      </select></label>
    </template>
    <div ref="host" class="host">
      <svg v-if="design?.line && width > 60" class="long" :class="{ panning: doing.kind === 'pan', adding: ui.tool === 'add-pvi' || ui.tool === 'pvi-through' || guides.active.value }" data-test="long-canvas" @wheel.prevent="zoom(where($event).s, Math.exp($event.deltaY * 0.0014))" @pointerdown="down" @pointermove="move" @pointerup="up" @pointerleave="pointer = null" @dblclick="bench.setMark(where($event).s)">
        <HatchDefs view="long" />
        <defs>
          <clipPath id="long-plot"><rect :x="plot.x0" :y="plot.y0" :width="plot.x1 - plot.x0" :height="plot.y1 - plot.y0" /></clipPath>
        </defs>
        <g class="grid">
          <g v-for="l in levels" :key="l"><path :d="`M${plot.x0} ${y(l)}H${plot.x1}`" /><text :x="plot.x0 - 6" :y="y(l) + 4" text-anchor="end">{{ formatNumber(l, l % 1 ? 1 : 0) }}</text></g>
          <path v-for="c in columns" :key="c.s" :d="`M${c.x} ${plot.y0}V${plot.y1}`" />
        </g>
        <g clip-path="url(#long-plot)">
          <path :d="earth.cut" fill="url(#cut-long)" /><path :d="earth.fill" fill="url(#fill-long)" />
          <rect v-if="ui.range" :x="x(ui.range[0])" :y="plot.y0" :width="Math.max(x(ui.range[1]) - x(ui.range[0]), 1)" :height="plot.y1 - plot.y0" class="range" />
          <path :d="groundPath" class="ground" />
          <path v-if="editing" :d="tangents" class="tangent" />
          <LongBeside v-if="ui.stage === 'levels'" :x="x" :y="y" />
          <path :d="designPath" class="design" :class="{ stale: notice }" data-test="design-line" />
          <GuideLines v-if="ui.stage === 'levels'" :guides="guides" :x="x" :y="y" :domain="domain" :draft="guideDraft" :snapped="caught" />
          <text v-for="g in grades" :key="g.x" :x="g.x" :y="g.y - 8" class="grade">{{ g.text }}</text>
        </g>
        <SightLane v-if="ui.sightLane && design.levels" :x="x" :x0="plot.x0" :x1="plot.x1" :top="plot.y1 - 52" :height="52" />
        <g class="bands">
          <g v-for="(b, i) in BANDS" :key="b">
            <path :d="`M0 ${plot.y1 + 6 + i * MARGIN.band}H${plot.x1}`" />
            <text x="6" :y="plot.y1 + 19 + i * MARGIN.band" class="faded">{{ b }}</text>
            <text v-for="c in columns" :key="c.s" :x="c.x" :y="plot.y1 + 19 + i * MARGIN.band" text-anchor="middle">{{ c.texts[i] }}</text>
          </g>
          <text v-for="c in columns" :key="`s${c.s}`" :x="c.x" :y="plot.y1 + 20 + BANDS.length * MARGIN.band" text-anchor="middle" class="station">{{ bench.station(c.s, 0) }}</text>
        </g>
        <g v-if="markX >= plot.x0 && markX <= plot.x1" class="mark" @pointerdown.stop="grabMark"><rect :x="markX - 5" :y="plot.y0" width="10" :height="plot.y1 - plot.y0" fill="transparent" /><path :d="`M${markX} ${plot.y0}V${plot.y1 + BANDS.length * MARGIN.band + 6}`" /></g>
        <rect v-if="doing.kind === 'pvi' && doing.moved && notice" x="-5" y="-5" width="10" height="10" class="refused" :transform="`translate(${x(held.station)} ${y(held.elevation)}) rotate(45)`" />
        <g v-if="ui.stage === 'levels'" clip-path="url(#long-plot)">
          <g
            v-for="(p, i) in pvis" :key="p.id" :transform="`translate(${x(p.station)} ${y(p.elevation)})`" class="pvi" :class="{ chosen: ui.selection?.kind === 'pvi' && ui.selection.id === p.id, fixed: !editing }"
            :tabindex="editing ? 0 : undefined" role="button" :aria-label="`PVI ${i + 1}`" :data-test="`pvi-${i + 1}`" @pointerdown.stop="grab($event, p)" @focus="ui.selection = { kind: 'pvi', id: p.id }" @keydown="nudge($event, p)"
          >
            <circle r="11" fill="transparent" /><rect x="-5" y="-5" width="10" height="10" transform="rotate(45)" />
          </g>
        </g>
      </svg>
      <div v-if="guides.active.value" class="making" data-test="guide-making">
        <select v-model="guides.kind.value" class="field" aria-label="How the guide line is made" data-test="guide-kind"><option v-for="[k, name] in GUIDE_WAYS" :key="k" :value="k">{{ name }}</option></select>
        <NumberField v-if="guides.kind.value === 'grade'" compact label="Gradient" kind="grade" :decimals="3" :model-value="guides.grade.value" test="guide-grade" @change="(v) => v !== null && (guides.grade.value = v)" />
        <NumberField v-if="guides.kind.value === 'parallel'" compact label="Raised or lowered by" :model-value="guides.rise.value" test="guide-rise" @change="(v) => v !== null && (guides.rise.value = v)" />
        <span class="faded">{{ guides.kind.value === 'grade' ? '%' : guides.kind.value === 'parallel' ? 'm' : '' }} {{ GUIDE_WAYS.find(([k]) => k === guides.kind.value)![2] }}</span>
      </div>
      <EmptyNote v-if="bench.project.value && bench.settled.value && !design?.line" text="The road has no line yet. Draw it in stage 2 and its long section stands here." action="Go to Line" @go="ui.stage = 'line'" />
      <EmptyNote v-else-if="design?.line && !design.levels && ui.stage === 'levels'" :text="ground.length ? 'There is no profile yet. Fit one to the ground, then drag its PVIs.' : 'There is no ground under the line.'" :action="bench.canEdit.value && ground.length ? 'Fit to ground' : ''" @go="fitToGround()" />
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
.pvi:not(.fixed) { cursor: move; }
.pvi:focus { outline: none; }
.pvi:focus-visible rect { stroke: var(--petrol); stroke-width: 3; }
.refused { fill: none; stroke: var(--madder); stroke-width: 2; stroke-dasharray: 3 2; pointer-events: none; }
.making { position: absolute; left: 66px; top: 4px; right: 16px; display: flex; gap: 8px; align-items: center; background: #ffffffee; border: 1px solid var(--rule); border-radius: 4px; padding: 3px 8px; font-size: 12px; }
.making > .field { width: 150px; min-height: 24px; padding: 1px 4px; }
.making :deep(.number) { width: 84px; }
.exaggeration { border: 0; background: none; color: var(--faded); font-size: 12px; cursor: pointer; }
</style>
