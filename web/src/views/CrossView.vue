<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { scaleLinear } from 'd3-scale'
import { computed, ref, useTemplateRef, watch } from 'vue'
import type { Section, SectionSide } from '@/api/types'
import { cutFillPaths } from '@/canvas/shared/cutFill'
import EmptyNote from '@/components/EmptyNote.vue'
import HatchDefs from '@/components/HatchDefs.vue'
import SectionShowMenu from '@/components/SectionShowMenu.vue'
import ViewFrame from '@/components/ViewFrame.vue'
import { MOST_GHOSTS, useGhosts, useNeighbours } from '@/composables/useGhosts'
import { useSteps } from '@/composables/useSteps'
import { useWorkbench } from '@/composables/workbench'
import { boxAround, placeLabels } from '@/lib/labels'
import { finishedLine, formationLine, saySpan, sectionTexts } from '@/lib/sectionTexts'
import { bareArea, bareLength, roundTicks, units } from '@/lib/units'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const look = useLook()
const { step } = useSteps()
const host = useTemplateRef<HTMLElement>('host')
const { width, height } = useElementSize(host)
const section = bench.section
const zoomed = ref(1)

const outer = (s: Section) => s.sides.flatMap((side) => side.nodes.filter((n) => !n.guide))
const view = computed(() => {
  const s = section.value
  if (!s || width.value < 60 || height.value < 60) return null
  const nodes = outer(s)
  const reach = Math.max(8, ...nodes.map((n) => Math.abs(n.offset))) * 1.18
  const seen = s.ground.filter(([o, z]) => z !== null && Math.abs(o) <= reach).map(([, z]) => z as number)
  const all = [...nodes.map((n) => n.level), ...seen]
  const low = Math.min(...all),
    high = Math.max(...all)
  const box = { x0: 46, x1: width.value - 14, y0: 16, y1: height.value - 26 }
  const perPixel = Math.max((2 * reach) / (box.x1 - box.x0), ((high - low) * 1.2 + 1) / (box.y1 - box.y0)) / zoomed.value
  const middle = (low + high) / 2
  const halfWidth = (perPixel * (box.x1 - box.x0)) / 2,
    halfHeight = (perPixel * (box.y1 - box.y0)) / 2
  return {
    box,
    x: scaleLinear([-halfWidth, halfWidth], [box.x0, box.x1]),
    y: scaleLinear([middle - halfHeight, middle + halfHeight], [box.y1, box.y0]),
    perPixel,
  }
})
const ticks = computed(() => Math.max(3, Math.min(8, Math.floor(width.value / 48)))) // so that their texts stand apart
const point = (o: number, z: number) => `${view.value!.x(o).toFixed(1)} ${view.value!.y(z).toFixed(1)}`
const lineOf = (points: readonly (readonly [number, number | null])[]) => {
  let pen = false
  return points
    .map(([o, z]) => {
      if (z === null) return ((pen = false), '')
      const text = `${pen ? 'L' : 'M'}${point(o, z)}`
      pen = true
      return text
    })
    .join('')
}
const finished = (side: SectionSide) => lineOf(finishedLine(side))
const formation = (side: SectionSide) => lineOf(side.formation.map((i) => [side.nodes[i]!.offset, side.nodes[i]!.level] as const))
/** Cut and fill between formation and ground as drawn; the areas in the title are the server's. */
const earth = computed(() => {
  const s = section.value
  if (!s || !view.value) return { cut: '', fill: '' }
  return cutFillPaths(s.ground, formationLine(s.sides), point)
})
const marks = computed(
  () =>
    section.value?.sides.flatMap(({ side, nodes }) =>
      nodes.filter((n) => n.role && !n.guide && !n.below).map((n) => ({ ...n, side })),
    ) ?? [],
)
/** What is asked for, where it touches nothing else; a layer's text hangs on a leader. */
const labels = computed(() => {
  const v = view.value
  if (!v || !section.value) return []
  const taken = marks.value.map((n) => boxAround(v.x(n.offset), v.y(n.level), 3))
  return placeLabels(sectionTexts(section.value.sides, look.sectionTexts, v.x, v.y), v.box, taken)
})
const colour = bench.partBench.colourOf
void bench.partBench.needLibrary()
const notice = computed(
  () => bench.problems.value.road?.sentence ?? bench.problems.value.levels?.sentence ?? (section.value ? '' : bench.sectionProblem.value),
)
const lacks = computed(() => {
  const d = bench.design.value
  if (!d?.line) return { text: 'The road has no line yet.', action: 'Go to Line', stage: 'line' as const }
  if (!d.levels) return { text: 'The road has no profile yet, so it has no sections.', action: 'Go to Levels', stage: 'levels' as const }
  if (!bench.surface.value?.sources.length) return { text: 'There is no ground to meet.', action: 'Go to Ground', stage: 'ground' as const }
  return null
})
const findings = computed(() => section.value?.findings ?? [])

// --- a node picked, sections compared, a distance measured -----------------------------------------------
const NEAR = 14 // px
const picked = computed(() => (ui.selection?.kind === 'node' ? ui.selection : null))
const pick = (at: { side: 'left' | 'right'; node: string } | null) => {
  if (at) ui.selection = { kind: 'node', ...at }
  else if (picked.value) ui.selection = null // what is chosen elsewhere stays
}
const isPicked = (side: string, name: string) => picked.value?.side === side && picked.value.node === name
const { ghosts, keep, forget, profiles } = useGhosts(bench)
const neighbours = useNeighbours(bench)
/** Where a neighbour's name stands: over what is seen of it farthest out, away from the section's own texts. */
const nameAt = (points: readonly (readonly [number, number])[]) => {
  const [low, high] = view.value!.x.domain() as [number, number]
  const seen = points.filter(([o]) => o >= low * 0.85 && o <= high * 0.85)
  return seen.reduce<readonly [number, number] | undefined>((a, b) => (a && Math.abs(a[0]) >= Math.abs(b[0]) ? a : b), undefined)
}
/** A compared section's line: another chainage with its centre on the one that is shown, another profile where it is. */
const ghostLine = (points: readonly (readonly [number, number | null])[], g: Section, inPlace: boolean) =>
  lineOf(points.map(([o, z]) => [o, z === null ? null : inPlace ? z : z - g.level + section.value!.level] as const))
const measuring = ref(false)
const span = ref<{ a: [number, number]; b: [number, number] } | null>(null)
/** What lies under the pointer: the nearest node, else the place itself. */
function placeUnder(event: PointerEvent): { at: [number, number]; node: { side: 'left' | 'right'; node: string } | null } {
  const box = host.value!.getBoundingClientRect()
  const [px, py] = [event.clientX - box.left, event.clientY - box.top]
  const v = view.value!
  const far = (n: { offset: number; level: number }) => Math.hypot(v.x(n.offset) - px, v.y(n.level) - py)
  const near = (section.value?.sides ?? [])
    .flatMap((s) => s.nodes.filter((n) => !n.guide && far(n) <= NEAR).map((n) => ({ side: s.side, n })))
    .sort((a, b) => far(a.n) - far(b.n))[0]
  if (near) return { at: [near.n.offset, near.n.level], node: { side: near.side, node: near.n.name } }
  return { at: [v.x.invert(px), v.y.invert(py)], node: null }
}
function down(event: PointerEvent) {
  if (!view.value || event.button !== 0 || !(event.target as Element).closest('svg')) return
  const { at, node } = placeUnder(event)
  if (!measuring.value) return void pick(node && node.node !== 'start' ? node : null)
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  span.value = { a: at, b: at }
}
function move(event: PointerEvent) {
  if (measuring.value && span.value && event.buttons & 1) span.value = { ...span.value, b: placeUnder(event).at }
}
watch(section, () => (span.value = null)) // it was measured in another section
const measured = computed(() => (span.value ? saySpan(span.value.a, span.value.b) : ''))
</script>

<template>
  <ViewFrame id="cross" title="Cross section" :notice="notice">
    <template #tools>
      <button class="btn quiet" aria-label="Section before" title="Section before ( , )" data-test="section-before"
          @click="step(-1)">‹</button>
      <span class="at" data-test="section-station">{{ section ? bench.station(section.station) : '–' }}</span>
      <button class="btn quiet" aria-label="Next section" title="Next section ( . )" data-test="section-next" @click="step(1)">›</button>
    </template>
    <div ref="host" class="host" :class="{ measuring }" @pointerdown="down" @pointermove="move"
        @wheel.prevent="zoomed = Math.min(Math.max(zoomed * Math.exp(-$event.deltaY * 0.0014), 0.4), 12)">
      <svg v-if="section && view" class="cross" data-test="cross-canvas">
        <HatchDefs view="cross" />
        <defs>
          <clipPath id="cross-plot"><rect :x="view.box.x0" :y="view.box.y0" :width="view.box.x1 - view.box.x0"
              :height="view.box.y1 - view.box.y0" /></clipPath>
        </defs>
        <g class="grid">
          <g v-for="l in roundTicks(view.y, 6)" :key="l.at"><path :d="`M${view.box.x0} ${view.y(l.at)}H${view.box.x1}`" /><text
              :x="view.box.x0 - 6" :y="view.y(l.at) + 4" text-anchor="end">{{ l.text }}</text></g>
          <text v-for="o in roundTicks(view.x, ticks, true)" :key="`o${o.at}`" :x="view.x(o.at)" :y="view.box.y1 + 17"
              text-anchor="middle">{{ o.text }}</text>
        </g>
        <g clip-path="url(#cross-plot)">
          <path :d="earth.cut" fill="url(#cut-cross)" /><path :d="earth.fill" fill="url(#fill-cross)" />
          <template v-for="(n, i) in neighbours" :key="`n${n.road_id}-${i}`">
            <path :d="lineOf(n.points)" class="neighbour" :data-test="`neighbour-${n.name}`" />
            <text v-if="nameAt(n.points)" :x="view.x(nameAt(n.points)![0])" :y="view.y(nameAt(n.points)![1]) - 8"
                class="text neighbour-name">{{ n.name }}</text></template>
          <template v-for="g in ghosts" :key="g.key"><template v-if="g.section">
            <path v-if="!g.inPlace" :d="ghostLine(g.section.ground, g.section, false)" class="ghost faint" :stroke="g.colour" />
            <path v-for="s in g.section.sides" :key="s.side" :d="ghostLine(finishedLine(s), g.section, g.inPlace)" class="ghost"
                :stroke="g.colour" :data-test="`ghost-${s.side}`" /></template></template>
          <path :d="lineOf(section.ground)" class="ground" />
          <path :d="`M${view.x(0)} ${view.box.y0}V${view.box.y1}`" class="centre" />
          <g v-for="side in section.sides" :key="side.side">
            <polygon v-for="(l, i) in side.layers" :key="i" :points="l.points.map(([o, z]) => point(o, z)).join(' ')"
                :fill="colour(l.material)" />
            <path :d="formation(side)" class="formation" />
            <path :d="finished(side)" class="finished" />
            <g v-if="side.reach !== null && side.unmet.length" class="unmet"><path
                :d="`M${view.x(side.reach)} ${view.box.y0}V${view.box.y1}`" /></g>
          </g>
          <circle v-for="n in marks" :key="`${n.side} ${n.name}`" :cx="view.x(n.offset)" :cy="view.y(n.level)" r="2.6"
              class="node" :class="{ on: isPicked(n.side, n.name) }" :tabindex="n.name === 'start' ? -1 : 0" role="button"
              :aria-label="`${n.role}, ${n.side}`" :data-test="`section-node-${n.side}-${n.name}`"
              @keydown.enter="pick({ side: n.side, node: n.name })"><title>{{ n.role }}:
            {{ bareLength(n.offset, 3, true) }}, {{ bareLength(n.level, 3) }}</title></circle>
          <path v-for="l in labels.filter((t) => t.from)" :key="`lead${l.key}`" :d="`M${l.from!.x} ${l.from!.y}L${l.at.x} ${l.at.y - 6}`"
              class="leader" />
          <text v-for="l in labels" :key="l.key" :x="l.at.x" :y="l.at.y + 4" class="text" :class="{ slope: l.key[0] === 's' }"
              :data-test="`text-${l.key}`">{{ l.text }}</text>
          <g v-if="span" class="span"><path :d="`M${point(...span.a)}L${point(...span.b)}`" /><circle
              v-for="(q, i) in [span.a, span.b]" :key="i" :cx="view.x(q[0])" :cy="view.y(q[1])" r="3" /></g>
        </g>
      </svg>
      <div v-if="section" class="ways">
        <button class="btn quiet" :disabled="ghosts.length >= MOST_GHOSTS" data-test="section-keep"
            title="Keep this section in the drawing, to compare others with it" @click="keep({ station: section.station })">Compare</button>
        <button v-for="c in profiles" :key="c.id" class="btn quiet" :disabled="ghosts.length >= MOST_GHOSTS"
            :data-test="`section-keep-${c.id || 'first'}`" :title="`Draw this section with the profile ${c.name} under it`"
            @click="keep({ candidate: c.id })">with {{ c.name }}</button>
        <button class="btn quiet" :class="{ on: measuring }" :aria-pressed="measuring" data-test="section-measure"
            @click="measuring = !measuring; span = null">Measure</button></div>
      <div v-if="measuring" class="measured" role="status" data-test="section-measured">{{ measured ||
        'Drag from one place to another.' }}</div>
      <ul v-if="ghosts.length" class="kept"><li v-for="(g, i) in ghosts" :key="g.key" :style="{ color: g.colour }">
        {{ g.name }} <button class="link" :aria-label="`Forget ${g.name}`"
          data-test="ghost-forget" @click="forget(i)">×</button></li></ul>
      <div v-if="section" class="areas"
          data-test="section-areas">cut <b>{{ bareArea(section.cut, 2) }}</b> {{ units.area }} &nbsp; fill
          <b>{{ bareArea(section.fill, 2) }}</b> {{ units.area }}</div>
      <SectionShowMenu v-if="section" v-model="look.sectionTexts" class="labels" />
      <div v-if="findings.length" class="found"><div v-for="f in findings" :key="f.sentence" class="card"
          :class="f.severity">{{ f.sentence }}</div></div>
      <EmptyNote v-if="bench.project.value && bench.settled.value && lacks && !section" :text="lacks.text"
          :action="lacks.stage === ui.stage ? '' : lacks.action" @go="ui.stage = lacks.stage" />
    </div>
  </ViewFrame>
</template>

<style scoped>
.host, .cross { position: absolute; inset: 0; width: 100%; height: 100%; }
.cross { font-size: 11px; user-select: none; }
.at { font-weight: 600; min-width: 74px; text-align: center; font-size: 12px; }
.grid path { stroke: #ebe5d8; }
.grid text { font-weight: 500; }
.ground { fill: none; stroke: var(--earth); stroke-width: 1.6; }
.centre { stroke: var(--ochre); stroke-dasharray: 8 3 2 3; }
.finished { fill: none; stroke: var(--petrol); stroke-width: 2; }
.formation { fill: none; stroke: var(--petrol); stroke-width: 1; stroke-dasharray: 4 2; }
.ghost { fill: none; stroke-width: 1.3; stroke-dasharray: 6 2; }
.ghost.faint { stroke-width: 0.8; opacity: 0.6; }
.neighbour { fill: none; stroke: #56606a; stroke-width: 1.6; opacity: 0.75; }
.text.neighbour-name { fill: #56606a; font-style: italic; }
.kept { position: absolute; left: 54px; bottom: 26px; margin: 0; padding: 0 6px; list-style: none; font-size: 12px; background: #ffffffd0; }
.measured { position: absolute; left: 54px; top: 24px; padding: 1px 6px; border-radius: 4px; background: #ffffffe8; font-size: 12px; }
.ways { position: absolute; right: 8px; bottom: 24px; font-size: 12px; }
.ways .btn { font-size: 12px; padding: 0 6px; min-height: 24px; background-color: #ffffffd0; }
.ways .btn.on { background: var(--petrol); color: #fff; }
.host.measuring { cursor: crosshair; }
.span path { stroke: var(--ochre); stroke-width: 1.5; }
.span circle { fill: #fff; stroke: var(--ochre); stroke-width: 1.5; }
.node { cursor: pointer; }
.node:focus-visible { outline: none; stroke-width: 3.5; }
.node.on { stroke: var(--ochre); stroke-width: 3; }
.node { fill: #fff; stroke: var(--petrol); stroke-width: 1.5; }
.text { fill: var(--ink); text-anchor: middle; paint-order: stroke; stroke: #ffffffe0; stroke-width: 3px; pointer-events: none; }
.text.slope { fill: var(--petrol); font-weight: 600; }
.leader { stroke: var(--faded); stroke-width: 0.8; }
.unmet path { stroke: var(--madder); stroke-dasharray: 3 3; }
.areas {
  position: absolute; left: 54px; top: 4px; padding: 1px 6px; border-radius: 4px; background: #ffffffe0; font-size: 12px;
  color: var(--faded);
}
.areas b { color: var(--ink); font-weight: 600; }
.labels { position: absolute; right: 10px; top: 2px; }
.found { position: absolute; right: 8px; bottom: 30px; max-width: 60%; font-size: 12px; }
</style>
