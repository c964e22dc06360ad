<script setup lang="ts">
/** Drawn on the long section behind the design: ground elsewhere, other profiles, what crosses, and fixed points. */
import type { ScaleLinear } from 'd3-scale'
import { computed } from 'vue'
import { useBeside } from '@/composables/useBeside'
import { useWorkbench } from '@/composables/workbench'
import { bareLength, sayLength } from '@/lib/units'

const props = defineProps<{ x: ScaleLinear<number, number>; y: ScaleLinear<number, number> }>()
const bench = useWorkbench()
const { beside, candidates } = useBeside(bench)
function path(points: readonly (readonly [number, number | null])[]): string {
  let pen = false
  return points
    .map(([s, z]) => {
      if (z === null) {
        pen = false
        return ''
      }
      const text = `${pen ? 'L' : 'M'}${props.x(s).toFixed(1)} ${props.y(z).toFixed(1)}`
      pen = true
      return text
    })
    .join('')
}
const others = computed(() => candidates.value.filter((c) => !c.used && c.points.length))
const end = (points: readonly (readonly [number, number | null])[]) =>
  [...points].reverse().find(([s, z]) => z !== null && props.x(s) < props.x.range()[1]! - 60)
const WORDS = { exact: '=', above: '≥', below: '≤' }
const fixed = computed(() => bench.road.value?.fixed_points ?? [])
</script>

<template>
  <g data-test="long-beside">
    <g v-for="(g, i) in beside?.grounds ?? []" :key="g.name" class="ground" :style="{ strokeDasharray: `${2 + 3 * (i % 3)} 3` }"><path
        :d="path(g.points)" /><text v-if="end(g.points)" :x="x(end(g.points)![0])"
        :y="y(end(g.points)![1]!) + (i % 2 ? 13 : -4)">{{ g.name }}</text></g>
    <g v-for="c in others" :key="c.id" class="other"><path :d="path(c.points)" :data-test="`candidate-line-${c.id || 'first'}`" /><text
        v-if="end(c.points)" :x="x(end(c.points)![0])" :y="y(end(c.points)![1]!) + 13">{{ c.name }}</text></g>
    <g v-for="(c, i) in (beside?.crossings ?? []).filter((q) => q.level !== null)" :key="`c${i}`" class="crossing"
        :transform="`translate(${x(c.station)} ${y(c.level!)})`" data-test="crossing">
      <path v-if="c.kind === 'road'" d="M-9 0H9M-9 -3V3M9 -3V3" /><circle v-else r="4"
          /><title>{{ c.name }} at {{ bench.station(c.station) }}, {{ sayLength(c.level, 3) }}</title>
    </g>
    <g v-for="(f, i) in fixed" :key="`f${i}`" class="fixed" :transform="`translate(${x(f.station)} ${y(f.level)})`" data-test="fixed-point">
      <path v-if="f.kind === 'exact'" d="M-6 -6L6 6M-6 6L6 -6" /><path v-else-if="f.kind === 'above'" d="M-8 0H8M-5 5L0 0L5 5" /><path
          v-else d="M-8 0H8M-5 -5L0 0L5 -5" /><text x="10" y="4">{{ WORDS[f.kind] }} {{ bareLength(f.level, 2) }} {{ f.name }}</text>
    </g>
  </g>
</template>

<style scoped>
path { fill: none; }
.ground path { stroke: var(--earth); stroke-width: 1; }
.ground { opacity: 0.8; }
.other path { stroke: var(--petrol); stroke-width: 1.2; stroke-dasharray: 8 3 2 3; }
.crossing path { stroke: var(--ink); stroke-width: 2; }
.crossing circle { fill: #fff; stroke: var(--ink); stroke-width: 1.5; }
.fixed path { stroke: var(--madder); stroke-width: 1.8; }
text { font-size: 11px; fill: var(--faded); paint-order: stroke; stroke: #fff; stroke-width: 3px; stroke-dasharray: none; }
.fixed text { fill: var(--madder); }
</style>
