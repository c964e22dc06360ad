<script setup lang="ts">
/** The ground along a drawn line, over the foot of the plan. */
import { scaleLinear } from 'd3-scale'
import { computed } from 'vue'
import { formatNumber } from '@/lib/format'
import { bareLength, sayLength } from '@/lib/units'
import type { SectionCut } from '@/tools/ground'

const props = defineProps<{ cut: SectionCut; colour: (material: string) => string }>()
defineEmits<{ close: [] }>()
const W = 560,
  H = 150,
  PAD = { left: 48, right: 10, top: 10, bottom: 20 }
const points = computed(() => props.cut.points)
const finished = computed(() => props.cut.finished)
const known = computed(() =>
  [...points.value, ...(finished.value ?? []), ...(props.cut.formation ?? [])].filter((p): p is [number, number] => p[1] !== null),
)
const x = computed(() => scaleLinear([0, Math.max(points.value.at(-1)?.[0] ?? 1, 0.1)], [PAD.left, W - PAD.right]))
const y = computed(() => {
  const z = known.value.map((p) => p[1])
  const [low, high] = z.length ? [Math.min(...z), Math.max(...z)] : [0, 1]
  return scaleLinear([low - 0.05 * (high - low) - 0.1, high + 0.05 * (high - low) + 0.1], [H - PAD.bottom, PAD.top])
})
function drawn(points: [number, number | null][]) {
  let pen = false
  return points
    .map(([s, z]) => {
      if (z === null) return ((pen = false), '')
      const word = `${pen ? 'L' : 'M'}${x.value(s).toFixed(1)} ${y.value(z).toFixed(1)}`
      pen = true
      return word
    })
    .join('')
}
const ratio = computed(() => Math.abs((y.value(0) - y.value(1)) / (x.value(1) - x.value(0))))
</script>

<template>
  <section class="ground-section" aria-label="Section of the ground" data-test="ground-section">
    <header><b>{{ finished ? 'Finished and existing ground' : 'Section of the ground' }}</b><span
        class="faded">{{ sayLength(points.at(-1)?.[0], 1) }} long, {{ formatNumber(ratio, 1) }} × vertical</span><button
        class="btn quiet" aria-label="Close the section" @click="$emit('close')">×</button></header>
    <svg v-if="known.length" :viewBox="`0 0 ${W} ${H}`" :width="W">
      <g v-for="t in y.ticks(4)" :key="t"><path :d="`M${PAD.left} ${y(t)}H${W - PAD.right}`" class="grid" /><text :x="PAD.left - 5"
          :y="y(t) + 4" text-anchor="end">{{ bareLength(t, 1) }}</text></g>
      <text v-for="t in x.ticks(6)" :key="`x${t}`" :x="x(t)" :y="H - 5" text-anchor="middle">{{ bareLength(t, 0) }}</text>
      <polygon v-for="(l, i) in cut.layers ?? []" :key="i" :points="l.points.map(([s, z]) => `${x(s)},${y(z)}`).join(' ')"
          :fill="colour(l.material)" data-test="cut-layer"><title>{{ l.material }}</title></polygon>
      <path :d="drawn(points)" class="line" />
      <path v-if="cut.formation?.length" :d="drawn(cut.formation)" class="formation" data-test="formation-line" />
      <path v-if="finished" :d="drawn(finished)" class="built" data-test="finished-line" />
    </svg>
    <p v-else class="faded">There is no ground under this line.</p>
  </section>
</template>

<style scoped>
.ground-section {
  position: absolute; left: 50%; bottom: 34px; transform: translateX(-50%); background: var(--sheet); border: 1px solid var(--rule);
  border-radius: 4px; padding: 4px 8px; font-size: 12px; width: min(580px, 96%); box-shadow: 0 2px 8px #1d2a3322;
}
header { display: flex; gap: 12px; align-items: center; }
header .btn { margin-left: auto; }
.grid { stroke: #ebe5d8; }
.built { fill: none; stroke: var(--petrol); stroke-width: 1.8; }
.formation { fill: none; stroke: var(--ink); stroke-width: 0.8; stroke-dasharray: 4 3; }
.line { fill: none; stroke: var(--earth); stroke-width: 1.6; }
svg { max-width: 100%; height: auto; display: block; }
svg text { font-size: 11px; fill: var(--faded); }
</style>
