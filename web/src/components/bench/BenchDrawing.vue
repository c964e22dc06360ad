<script setup lang="ts">
/** The large drawing of the bench: the template over its trial ground. Nodes of the part in hand, vertices of the ground and limits of
 * searches are dragged; the server computes what that makes of the part. */
import { useElementSize, useEventListener } from '@vueuse/core'
import { scaleLinear } from 'd3-scale'
import { computed, onScopeDispose, ref, shallowRef, useTemplateRef, watch } from 'vue'
import type { Gesture, SectionSide } from '@/api/types'
import { cutFillPaths } from '@/canvas/shared/cutFill'
import HatchDefs from '@/components/HatchDefs.vue'
import ToolStrip from '@/components/ToolStrip.vue'
import SectionShowMenu from '@/components/SectionShowMenu.vue'
import NumberField from '@/components/NumberField.vue'
import { useWorkbench } from '@/composables/workbench'
import { boxAround, placeLabels } from '@/lib/labels'
import { finishedLine, formationLine, sectionTexts } from '@/lib/sectionTexts'
import { bareArea, bareLength, roundTicks, sayLength, units } from '@/lib/units'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'
import { benchTools } from '@/tools/bench'
import { arrowOf, burstOf, type AnyGrip, type Grip } from '@/tools/drag'
import type { BenchPlace, Press } from '@/tools/tool'
import { useDrag } from '@/tools/useDrag'

const bench = useWorkbench()
const shop = bench.partBench
const ui = useUi()
const look = useLook()
const host = useTemplateRef<HTMLElement>('host')
const { width, height } = useElementSize(host)
const answer = shop.answer
const since = ref('start')
const vertex = ref<number | null>(null)

// --- the frame: fitted when another thing lies on the bench, else where the person left it ---
const frame = shallowRef<{ o: number; z: number; per: number } | null>(null)
const box = computed(() => ({ x0: 44, x1: width.value - 12, y0: 34, y1: height.value - 24 }))
function fit() {
  const a = answer.value
  if (!a || width.value < 80) return
  const nodes = a.sides.flatMap((s) => s.nodes)
  const reach = Math.max(3, ...nodes.map((n) => Math.abs(n.offset))) * 1.35
  const seen = a.ground.filter(([o]) => Math.abs(o) <= reach).map((p) => p[1])
  const alone = shop.subject.value?.kind === 'part'
  const all = [...nodes.map((n) => n.level), ...(alone && nodes.length > 2 ? [] : seen), a.level]
  const [low, high] = [Math.min(...all), Math.max(...all)]
  const b = box.value
  const o = alone ? Math.max(...nodes.map((n) => n.offset), 2) / 2 : 0
  const span = alone ? Math.max(...nodes.map((n) => n.offset), 4) * 1.4 : 2 * reach
  frame.value = { o, z: (low + high) / 2, per: Math.max(span / (b.x1 - b.x0), ((high - low) * 1.25 + 0.8) / (b.y1 - b.y0)) }
}
let fitted = ''
let stood = 0 // the centre's level in the answer before
watch(
  () => [answer.value, width.value, height.value] as const,
  () => {
    if (drag.held.value || shop.about.value !== shop.lies.value) return
    const risen = (answer.value?.level ?? stood) - stood
    stood += risen
    if (fitted === shop.about.value && frame.value) {
      // another place of the road: the drawing goes with its centre; over ground that was bent, the template moves
      if (risen && shop.groundKind.value !== 'bent') frame.value = { ...frame.value, z: frame.value.z + risen }
      return
    }
    fit()
    if (frame.value) fitted = shop.about.value
  },
)
const view = computed(() => {
  const f = frame.value,
    b = box.value
  if (!f || b.x1 - b.x0 < 50 || b.y1 - b.y0 < 50) return null
  const [w, h] = [((b.x1 - b.x0) * f.per) / 2, ((b.y1 - b.y0) * f.per) / 2]
  return {
    x: scaleLinear([f.o - w, f.o + w], [b.x0, b.x1]),
    y: scaleLinear([f.z - h, f.z + h], [b.y1, b.y0]),
    box: b,
  }
})
function zoom(event: WheelEvent) {
  const v = view.value,
    f = frame.value
  if (!v || !f) return
  const r = host.value!.getBoundingClientRect()
  const at = { o: v.x.invert(event.clientX - r.left), z: v.y.invert(event.clientY - r.top) }
  const by = Math.exp(event.deltaY * 0.0014)
  frame.value = { o: at.o + (f.o - at.o) * by, z: at.z + (f.z - at.z) * by, per: f.per * by }
}
const px = (p: readonly number[]) => `${view.value!.x(p[0]!).toFixed(1)} ${view.value!.y(p[1]!).toFixed(1)}`
const path = (line: readonly (readonly number[])[]) => (line.length > 1 ? `M${line.map(px).join('L')}` : '')
const formation = (s: SectionSide) => s.formation.map((i) => [s.nodes[i]!.offset, s.nodes[i]!.level])
const earth = computed(() => {
  const a = answer.value
  if (!a || !view.value) return { cut: '', fill: '' }
  return cutFillPaths(a.ground as [number, number][], formationLine(a.sides), (o, z) => px([o, z]))
})
const colour = shop.colourOf
void shop.needLibrary()

// --- nodes of the part in hand ---
interface Knob extends BenchPlace {
  node: string
  guide: boolean
  role: string
}
const knobs = computed<Knob[]>(() => {
  const at = shop.inHand.value,
    s = answer.value?.sides.find((x) => x.side === at?.side)
  if (!at || !s) return []
  return s.nodes
    .filter((n) => n.name.startsWith(`${at.id}.`))
    .map((n) => ({ node: n.name.slice(at.id.length + 1), o: n.offset, z: n.level, guide: n.guide, role: n.role }))
})
const startPlace = computed<BenchPlace | null>(() => {
  const start = shop.inHand.value ? shop.part.value?.start : null
  return start ? { o: start[0], z: start[1] } : null
})
const placeOf = (node: string): BenchPlace | null =>
  node === 'start' ? startPlace.value : (knobs.value.find((k) => k.node === node) ?? null)
function nearest(press: Press, within = 9): string | null {
  const v = view.value
  if (!v) return null
  const all = [...knobs.value.map((k) => ({ ...k })), ...(startPlace.value ? [{ node: 'start', ...startPlace.value }] : [])]
  const found = all.map((k) => ({ node: k.node, d: Math.hypot(v.x(k.o) - press.x, v.y(k.z) - press.y) })).sort((a, b) => a.d - b.d)[0]
  return found && found.d <= within ? found.node : null
}
function uprightTo(press: Press): string | null {
  const v = view.value
  if (!v) return null
  const all = [...knobs.value.filter((k) => !k.guide), ...(startPlace.value ? [{ node: 'start', ...startPlace.value }] : [])]
  const over = all.filter((k) => Math.abs(v.x(k.o) - press.x) <= 6)
  return over.sort((a, b) => Math.abs(v.y(a.z) - press.y) - Math.abs(v.y(b.z) - press.y))[0]?.node ?? null
}
function levelOn(line: readonly (readonly number[])[], o: number): number | null {
  for (let i = 0; i + 1 < line.length; i++) {
    const [a, b] = [line[i]!, line[i + 1]!]
    if (o >= a[0]! && o <= b[0]!) return b[0] === a[0] ? a[1]! : a[1]! + ((b[1]! - a[1]!) * (o - a[0]!)) / (b[0]! - a[0]!)
  }
  return null
}
function onGround(press: Press): boolean {
  const v = view.value!
  const z = levelOn(answer.value?.ground ?? [], v.x.invert(press.x))
  return z !== null && Math.abs(v.y(z) - press.y) <= 7
}
const sheet = { bench: shop, nodeAt: (p: Press) => nearest(p), uprightTo, onGround, placeOf, since }
const tools = benchTools(sheet)
onScopeDispose(bench.desk.lay(tools))
watch(
  () => shop.part.value?.ref,
  () => (since.value = 'start'),
)

// --- grips ---
const place = (press: Press): BenchPlace => ({ o: view.value!.x.invert(press.x), z: view.value!.y.invert(press.y) })
/** Round places as a person would type them: centimetres near, decimetres far. */
const step = computed(() => ((frame.value?.per ?? 0.05) < 0.012 ? 0.01 : 0.05) * units.value.metre)
const tidy = (v: number) => Math.round(v / step.value) * step.value
const gestureGrip = (id: string, make: (at: BenchPlace) => Gesture): Grip<BenchPlace, Gesture> => ({
  id,
  to: (at) => make({ o: tidy(at.o), z: tidy(at.z) }),
  tryOut: (g) => shop.ask(g),
  save: (g) => shop.gesture(g),
  back: () => shop.ask(),
})
const nodeGrip = (k: Knob) => gestureGrip(`node ${k.node}`, (at) => ({ do: 'drag', node: k.node, to: [at.o, at.z] }))
const limitGrip = (node: string) => gestureGrip(`limit ${node}`, (at) => ({ do: 'limit', node, to: [at.o, at.z] }))
function vertexGrip(i: number): Grip<BenchPlace, [number, number][]> {
  const whole = (answer.value?.ground ?? []).map((p): [number, number] => [p[0], p[1]])
  return {
    id: `ground ${i}`,
    to: (at) => {
      const low = whole[i - 1]?.[0] ?? -Infinity,
        high = whole[i + 1]?.[0] ?? Infinity
      const o = Math.min(Math.max(tidy(at.o), low + 0.01), high - 0.01)
      return whole.map((p, j) => (j === i ? [o, tidy(at.z)] : p))
    },
    tryOut: (to) => shop.bend(to),
    save: (to) => shop.bend(to),
    back: () => shop.bend(whole),
  }
}
const mayEdit = computed(() => bench.canEdit.value)
const drag = useDrag<BenchPlace>(bench.desk, host, {
  place,
  pan: (dx, dy) => {
    const f = frame.value
    if (f) frame.value = { ...f, o: f.o - dx * f.per, z: f.z + dy * f.per }
  },
  click: (at, press, grip) => {
    const tool = bench.desk.inView('bench')
    if (tool?.click) return tool.click(at, press)
    if (grip?.id.startsWith('node ')) return choose(grip.id.slice(5))
    if (grip?.id.startsWith('ground ')) return void (vertex.value = Number(grip.id.slice(7)))
    pickPart(press)
    return undefined
  },
})
function choose(node: string) {
  ui.selection = { kind: 'part', id: node }
  since.value = node
}
/** A click on the line of another part takes that one in hand. */
function pickPart(press: Press) {
  const v = view.value
  if (!v) return
  let best: { side: 'left' | 'right'; id: string; d: number } | null = null
  for (const s of answer.value?.sides ?? [])
    for (const n of s.nodes) {
      if (n.guide || !n.name.includes('.')) continue
      const d = Math.hypot(v.x(n.offset) - press.x, v.y(n.level) - press.y)
      if (d < 24 && (!best || d < best.d)) best = { side: s.side, id: n.name.split('.')[0]!, d }
    }
  if (best) shop.chosen.value = { side: best.side, id: best.id }
  ui.selection = null
  vertex.value = null
}
function down(event: PointerEvent, grip: AnyGrip<BenchPlace> | null) {
  drag.down(event, bench.desk.inView('bench')?.id.startsWith('bench-') && grip && !grip.id.startsWith('ground ') ? null : grip)
}
/** Arrow presses on a handle; `read` is the place that the presses before have come to. */
function nudge<V>(event: KeyboardEvent, grip: Grip<BenchPlace, V>, at: BenchPlace, read: (values: V) => BenchPlace) {
  const by = arrowOf(event.key)
  if (!by) return
  event.preventDefault()
  const d = (event.shiftKey ? 1 : 0.1) * units.value.metre
  bench.bursts.press<V>(burstOf(grip), (before) => {
    const from = before === null ? at : read(before)
    return grip.to({ o: from.o + by[0] * d, z: from.z + by[1] * d }, { x: 0, y: 0, button: 0, ctrl: false, shift: false })
  })
}
const ofGesture = (g: Gesture): BenchPlace => ({ o: g.to[0], z: g.to[1] })
function dropVertex() {
  const g = answer.value?.ground ?? []
  if (vertex.value === null || g.length <= 2) return
  shop.bend(g.filter((_, i) => i !== vertex.value).map((p) => [p[0], p[1]]))
  vertex.value = null
}
useEventListener(
  'keydown',
  (event: KeyboardEvent) => {
    if (event.key !== 'Delete' || vertex.value === null || (event.target as HTMLElement).closest?.('input, select, .p-dialog')) return
    event.stopPropagation()
    dropVertex()
  },
  { capture: true },
)

// --- texts ---
const groundShown = computed(() => {
  const v = view.value
  if (!v) return []
  return (answer.value?.ground ?? []).map((p, i) => ({ o: p[0], z: p[1], i })).filter((p) => v.x(p.o) > v.box.x0 - 20 && v.x(p.o) <
      v.box.x1 + 20)
})
const labels = computed(() => {
  const v = view.value,
    a = answer.value
  if (!v || !a) return []
  const out = sectionTexts(a.sides, { ...look.benchTexts, names: false }, v.x, v.y)
  if (look.benchTexts.names)
    for (const k of knobs.value) out.push({ key: `n${k.node}`, x: v.x(k.o), y: v.y(k.z), text: k.node, rank: k.role ? 1 : k.guide ? 4 : 2 })
  for (const p of a.passed)
    out.push({
      key: `p${p.side}${p.node}`,
      x: v.x((p.takes_last ? p.first : p.last)[0]),
      y: v.y((p.takes_last ? p.first : p.last)[1]),
      text: p.takes_last ? 'first crossing, passed by' : 'last crossing, not taken',
      rank: 0,
    })
  const marks = [...knobs.value, ...groundShown.value].map((k) => boxAround(v.x(k.o), v.y(k.z), 3))
  return placeLabels(out, { x0: v.box.x0, x1: v.box.x1, y0: v.box.y0, y1: v.box.y1 }, marks)
})
/** Other surfaces that parts look for, named at the right edge. */
const bound = computed(() => {
  const v = view.value
  return (answer.value?.others ?? []).map((b) => ({ name: b.name, y: v ? v.y(levelOn(b.line, v.x.invert(v.box.x1 - 6)) ?? 0) : 0 }))
})
const chosenNode = computed(() => (ui.selection?.kind === 'part' ? ui.selection.id : ''))
const levelSaid = computed(() => answer.value?.level ?? 0)
/** Ends of searches; one that lies beyond the drawing stands at its edge. */
const limits = computed(() => {
  const v = view.value
  const seen = new Set<string>()
  return (answer.value?.sights ?? [])
    .filter((s) => {
      const mine = s.side === shop.inHand.value?.side && s.node.startsWith(`${shop.inHand.value.id}.`)
      if (!v || s.limit === null || !mine || seen.has(s.node)) return false
      return seen.add(s.node)
    })
    .map((s) => ({ ...s, x: Math.min(Math.max(v!.x(s.limit!), v!.box.x0 + 6), v!.box.x1 - 6) }))
})
const fromHinge = (limit: number) => sayLength(Math.abs(limit - (startPlace.value?.o ?? 0)), 1)
const hint = computed(() => bench.desk.inView('bench')?.hint ?? '')
const drawn = computed(() => (bench.desk.inView('bench')?.drawn?.() ?? []) as BenchPlace[])
</script>

<template>
  <div class="drawing">
    <div class="strip">
      <ToolStrip :tools="tools" rest="Choose" />
      <span class="spring" />
      <label class="pick">on
        <select class="field" data-test="ground-kind" :value="shop.groundKind.value"
            @change="shop.groundKind.value = ($event.target as HTMLSelectElement).value">
          <option value="road" :disabled="!shop.fromRoad.value">of the road here</option>
          <option v-for="t in shop.answer.value?.thumbs ?? []" :key="t.name" :value="t.name">{{ t.name }}</option>
          <option value="bent" :disabled="shop.groundKind.value !== 'bent'">bent here</option>
        </select></label>
      <span class="pick">at</span><span class="level"><NumberField label="Level of the centre" :model-value="levelSaid" unit="m"
          :decimals="3" compact test="bench-level"
          @change="$event !== null && shop.lift($event)" /></span>
      <label class="pick">falls
        <select v-model="shop.crossfall.value" class="field" data-test="bench-crossfall">
          <option value="template">as the template</option>
          <option value="mark">as at the mark</option>
          <option value="left">5 % to the left</option>
          <option value="right">5 % to the right</option>
        </select></label>
      <SectionShowMenu v-model="look.benchTexts"><button class="link" @click="fit">fit all</button></SectionShowMenu>
    </div>
    <div ref="host" class="host" :data-drawn="!!(answer && view)" @wheel.prevent="zoom"
        :class="{ tool: bench.desk.inView('bench'), held: drag.held.value }"
        @pointerdown="down($event, null)" @pointermove="drag.move" @pointerup="drag.up">
      <svg v-if="answer && view" class="svg" data-test="bench-canvas" :aria-busy="shop.behind.value"
          :data-scale="[view.x(0), view.x(1) - view.x(0), view.y(0), view.y(0) - view.y(1)].join(' ')">
        <HatchDefs view="bench" />
        <defs><clipPath id="bench-plot"><rect :x="view.box.x0" :y="4" :width="view.box.x1 - view.box.x0"
            :height="view.box.y1 - 4" /></clipPath></defs>
        <g class="grid">
          <g v-for="l in roundTicks(view.y, 6)" :key="l.at"><path :d="`M${view.box.x0} ${view.y(l.at)}H${view.box.x1}`" /><text
              :x="view.box.x0 - 6" :y="view.y(l.at) + 4" text-anchor="end">{{ l.text }}</text></g>
          <text v-for="o in roundTicks(view.x, 8, true)" :key="`o${o.at}`" :x="view.x(o.at)" :y="view.box.y1 + 16"
              text-anchor="middle">{{ o.text }}</text>
        </g>
        <g clip-path="url(#bench-plot)">
          <path :d="earth.cut" fill="url(#cut-bench)" /><path :d="earth.fill" fill="url(#fill-bench)" />
          <g v-for="other in answer.others" :key="other.name" class="bound"><path :d="path(other.line)" /></g>
          <path :d="path(answer.ground)" class="ground" data-test="trial-ground" />
          <path :d="`M${view.x(0)} ${view.box.y0}V${view.box.y1}`" class="centre" />
          <text v-for="b in bound" :key="b.name" :x="view.box.x1 - 6" :y="b.y - 5" class="label bound" text-anchor="end">{{ b.name }}</text>
          <g v-if="shop.other.value" class="other">
            <template v-for="s in shop.other.value.sides" :key="s.side"><path :d="path(finishedLine(s))" /></template>
          </g>
          <g v-for="s in answer.sides" :key="s.side">
            <polygon v-for="(l, i) in s.layers" :key="i" :points="l.points.map(px).join(' ')" :fill="colour(l.material)" />
            <path :d="path(formation(s))" class="formation" />
            <path :d="path(finishedLine(s))" class="finished" :data-test="`finished-${s.side}`" />
          </g>
          <template v-for="s in answer.sights" :key="`${s.side}${s.node}`">
            <path v-if="!s.met" :d="path([s.start, s.end])" class="missed" :data-test="`missed-${s.node}`" />
          </template>
          <template v-for="p in answer.passed" :key="`${p.side}${p.node}`">
            <circle :cx="view.x((p.takes_last ? p.first : p.last)[0])" :cy="view.y((p.takes_last ? p.first : p.last)[1])" r="4"
                class="passed" />
          </template>
          <template v-if="chosenNode && placeOf(chosenNode)">
            <circle :cx="view.x(placeOf(chosenNode)!.o)" :cy="view.y(placeOf(chosenNode)!.z)" r="9" class="halo" />
          </template>
          <path v-if="drawn.length > 1" :d="path(drawn.map((p) => [p.o, p.z]))" class="drawn" />
        </g>
        <path v-for="l in labels.filter((t) => t.from)" :key="`lead${l.key}`" :d="`M${l.from!.x} ${l.from!.y}L${l.at.x} ${l.at.y - 6}`"
            class="leader" />
        <text v-for="l in labels" :key="l.key" :x="l.at.x" :y="l.at.y + 4" class="label"
            :class="{ slope: l.key[0] === 's', pass: l.key[0] === 'p' }"
            text-anchor="middle">{{ l.text }}</text>
        <g v-for="l in limits" :key="l.node" class="limit" :class="{ beyond: l.x !== view.x(l.limit!) }">
          <path :d="`M${l.x} 14V${view.box.y1}`" />
          <rect :x="l.x - 6" y="6" width="12" height="14" rx="2" tabindex="0" role="button"
              :aria-label="`Search of ${l.node} ends ${fromHinge(l.limit!)} from where the part begins`" :data-test="`limit-${l.node}`"
              @pointerdown.stop="mayEdit && down($event, limitGrip(l.node.split('.')[1]!))" @pointermove.stop="drag.move"
              @pointerup.stop="drag.up" @keydown="nudge($event, limitGrip(l.node.split('.')[1]!), { o: l.limit!, z: 0 }, ofGesture)" />
          <text :x="l.x + (l.x > 240 ? -10 : 10)" y="17" :text-anchor="l.x > 240 ? 'end' : 'start'">{{ fromHinge(l.limit!) }} from the
            hinge</text>
        </g>
        <rect v-for="p in groundShown" :key="`g${p.i}`" :x="view.x(p.o) - 4.5" :y="view.y(p.z) - 4.5" width="9" height="9" class="vertex"
            :class="{ on: vertex === p.i }" :transform="`rotate(45 ${view.x(p.o)} ${view.y(p.z)})`" tabindex="0" role="button"
            :aria-label="`Ground ${bareLength(p.o, 2, true)}, ${bareLength(p.z, 2)}`" :data-test="`vertex-${p.i}`"
            @pointerdown.stop="down($event, vertexGrip(p.i))" @pointermove.stop="drag.move" @pointerup.stop="drag.up"
            @focus="vertex = p.i" @keydown="nudge($event, vertexGrip(p.i), p, (line) => ({ o: line[p.i]![0], z: line[p.i]![1] }))" />
        <circle v-if="startPlace && shop.inHand.value" :cx="view.x(startPlace.o)" :cy="view.y(startPlace.z)" r="3.5" class="knob start" />
        <circle v-for="k in knobs" :key="k.node" :cx="view.x(k.o)" :cy="view.y(k.z)" r="4.5" class="knob"
            :class="{ guide: k.guide, since: since === k.node && bench.desk.inView('bench')?.id === 'bench-node' }" tabindex="0"
                role="button"
            :aria-label="`Node ${k.node}`" :data-test="`node-${k.node}`"
            @pointerdown.stop="down($event, mayEdit ? nodeGrip(k) : null)" @pointermove.stop="drag.move" @pointerup.stop="drag.up"
            @focus="chosenNode !== k.node && !drag.held.value && choose(k.node)"
                @keydown="mayEdit && nudge($event, nodeGrip(k), k, ofGesture)" />
      </svg>
      <div v-if="answer" class="areas" data-test="bench-areas"
          :data-cut="answer.cut + answer.fill">cut <b>{{ bareArea(answer.cut, 2) }}</b> {{ units.area }} &nbsp; fill
        <b>{{ bareArea(answer.fill, 2) }}</b> {{ units.area }}</div>
      <p v-if="hint" class="hint">{{ hint }}</p>
      <div v-if="answer?.told.length" class="found"><div v-for="t in answer.told" :key="t" class="card fault">{{ t }}</div></div>
    </div>
  </div>
</template>

<style scoped>
.drawing { flex: 1; min-height: 0; display: flex; flex-direction: column; }
.strip { display: flex; gap: 4px; align-items: center; padding: 2px 8px; border-bottom: 1px solid var(--rule); flex-wrap: wrap; flex: none; }
.spring { flex: 1; }
.pick { display: flex; gap: 4px; align-items: center; color: var(--faded); font-size: 12px; }
.pick .field { width: auto; min-height: 24px; padding: 0 4px; max-width: 122px; }
.level { width: 96px; font-size: 12px; }
.host { position: relative; flex: 1; min-height: 0; overflow: hidden; touch-action: none; }
.host.tool { cursor: crosshair; }
.svg { position: absolute; inset: 0; width: 100%; height: 100%; font-size: 11px; user-select: none; }
.grid path { stroke: #ebe5d8; }
.grid text { fill: var(--faded); }
.ground { fill: none; stroke: var(--earth); stroke-width: 1.6; }
.bound path { fill: none; stroke: var(--earth); stroke-width: 1; stroke-dasharray: 2 3; }
.label.bound { fill: var(--earth); }
.centre { stroke: var(--ochre); stroke-dasharray: 8 3 2 3; }
.finished { fill: none; stroke: var(--petrol); stroke-width: 2.2; }
.formation { fill: none; stroke: var(--petrol); stroke-width: 1; stroke-dasharray: 4 2; }
.other path { fill: none; stroke: #8a5a8a; stroke-width: 1.6; stroke-dasharray: 6 3; }
.missed { fill: none; stroke: var(--madder); stroke-width: 1.4; stroke-dasharray: 5 4; }
.passed { fill: #fff; stroke: var(--faded); stroke-width: 1.4; }
.halo { fill: none; stroke: var(--petrol); stroke-width: 1.5; }
.drawn { fill: none; stroke: var(--ochre); stroke-width: 2; }
.knob { fill: #fff; stroke: var(--petrol); stroke-width: 1.8; cursor: move; }
.knob.guide { stroke-dasharray: 2.5 1.5; stroke: var(--ochre); }
.knob.start { fill: var(--petrol); cursor: default; }
.knob.since { fill: var(--ochre); }
.vertex { fill: #fff; stroke: var(--earth); stroke-width: 1.5; cursor: move; }
.vertex.on { fill: var(--earth); }
.limit path { stroke: var(--ochre); stroke-dasharray: 2 4; stroke-width: 1.5; }
.limit.beyond path { display: none; }
.limit rect { fill: var(--ochre); cursor: ew-resize; }
.limit text { fill: var(--ochre-text); font-weight: 600; paint-order: stroke; stroke: #fff; stroke-width: 3px; }
.label { fill: var(--ink); paint-order: stroke; stroke: #ffffffd0; stroke-width: 3px; pointer-events: none; }
.label.slope { fill: var(--petrol); font-weight: 600; }
.leader { stroke: var(--faded); stroke-width: 0.8; }
.label.pass { fill: var(--faded); }
.areas {
  position: absolute; left: 50px; top: 4px; padding: 1px 6px; border-radius: 4px; background: #ffffffe0; font-size: 12px; color: var(--faded);
  pointer-events: none;
}
.areas b { color: var(--ink); font-weight: 600; }
.hint {
  position: absolute; left: 50px; bottom: 22px; margin: 0; font-size: 12px; background: #fffd; padding: 1px 6px; color: var(--petrol);
  pointer-events: none;
}
.found { position: absolute; right: 8px; bottom: 26px; max-width: 60%; font-size: 12px; pointer-events: none; }
</style>
