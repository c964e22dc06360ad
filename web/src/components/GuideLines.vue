<script setup lang="ts">
/** Guide lines over the long section, drawn with an arrow in increasing chainage, and marks where they cross. */
import type { ScaleLinear } from 'd3-scale'
import { computed } from 'vue'
import { levelOn, type Guides, type Place } from '@/composables/useGuides'
import { formatGrade } from '@/lib/format'

const props = defineProps<{
  guides: Guides
  x: ScaleLinear<number, number>
  y: ScaleLinear<number, number>
  domain: [number, number]
  draft: { line: [number, number, number]; text: string } | null
  snapped: Place | null
}>()
const ARROWS = [0.86, 0.74, 0.62] // of the way across, where the gradient is written; neighbours differ, so that parallels can be read
function picture(line: readonly [number, number, number], i: number, within?: readonly [number, number]) {
  const [a, b] = within ? [Math.max(within[0], props.domain[0]), Math.min(within[1], props.domain[1])] : props.domain
  const s = a + (b - a) * ARROWS[i % ARROWS.length]!
  const [x0, y0, x1, y1] = [props.x(a), props.y(levelOn(line, a)), props.x(b), props.y(levelOn(line, b))]
  return {
    path: `M${x0} ${y0}L${x1} ${y1}`,
    x: props.x(s),
    y: props.y(levelOn(line, s)),
    room: Math.abs(x1 - x0),
    angle: (Math.atan2(y1 - y0, x1 - x0) * 180) / Math.PI,
  }
}
const inSight = (g: { within?: readonly [number, number] | undefined }) =>
  !g.within || (g.within[0] < props.domain[1] && g.within[1] > props.domain[0])
const drawn = computed(() =>
  props.guides.shown.value.filter(inSight).map((g, i) => {
    const p = picture(g.line, i, g.within)
    return { id: g.id, text: p.room < 80 ? g.id : `${g.id}  ${formatGrade(g.line[2])}`, ...p }
  }),
)
const next = computed(() => (props.draft ? { ...picture(props.draft.line, drawn.value.length), text: props.draft.text } : null))
const crossings = computed(() => props.guides.crossings.value.filter((c) => c[2] >= props.domain[0] && c[2] <= props.domain[1]))
</script>

<template>
  <g class="guides" data-test="guides">
    <g v-for="g in drawn" :key="g.id" :data-test="`guide-${g.id}`">
      <path :d="g.path" class="guide" />
      <g :transform="`translate(${g.x} ${g.y}) rotate(${g.angle})`"><path d="M-4-4 6 0-4 4Z" class="arrow" /><text x="-10" y="-6"
          text-anchor="end">{{ g.text }}</text></g>
    </g>
    <circle v-for="c in crossings" :key="c.join()" :cx="x(c[2])" :cy="y(c[3])" :r="c[1] ? 4 : 2.5" class="crossing"
        :class="{ end: !c[1] }" :data-test="c[1] ? `crossing-${c[0]}-${c[1]}` : undefined" />
    <g v-if="next" class="draft"><path :d="next.path" class="guide" /><text :x="next.x - 8" :y="next.y - 8"
        text-anchor="end">{{ next.text }}</text></g>
    <circle v-if="snapped" :cx="x(snapped.s)" :cy="y(snapped.z)" r="8" class="snap" data-test="snapped" />
  </g>
</template>

<style scoped>
.guides { pointer-events: none; }
.guide { fill: none; stroke: #55752f; stroke-width: 1.1; stroke-dasharray: 14 3 2 3; }
.arrow { fill: #55752f; }
text { font-size: 11px; font-weight: 600; fill: #47631f; paint-order: stroke; stroke: #fff; stroke-width: 3px; white-space: pre; }
.crossing { fill: #fff; stroke: #55752f; stroke-width: 1.5; }
.crossing.end { fill: #55752f; stroke: none; }
.draft .guide { stroke: var(--petrol); stroke-dasharray: 5 3; }
.draft text { fill: var(--petrol); }
.snap { fill: none; stroke: var(--petrol); stroke-width: 2; }
</style>
