<script setup lang="ts">
/** Names of what crosses the road, in a row over the long section with a fine line down to each; told apart where they are close. */
import type { ScaleLinear } from 'd3-scale'
import { computed } from 'vue'
import { useBeside } from '@/composables/useBeside'
import { useWorkbench } from '@/composables/workbench'

type Linear = ScaleLinear<number, number>
const props = defineProps<{ x: Linear; y: Linear; plot: { x0: number; x1: number; y0: number; y1: number } }>()
const { beside } = useBeside(useWorkbench())
const WIDE = 6.1 // px a letter
const names = computed(() => {
  const there = (beside.value?.crossings ?? []).filter((c) => c.level !== null).map((c) => ({ ...c, at: props.x(c.station) }))
  const out: { text: string; x: number; at: number; y: number }[] = []
  let free = props.plot.x0
  for (const c of there.filter((q) => q.at > props.plot.x0 && q.at < props.plot.x1).sort((a, b) => a.at - b.at)) {
    const wide = c.name.length * WIDE
    const x = Math.max(Math.min(c.at - wide / 2, props.plot.x1 - wide), free)
    const last = out.at(-1)
    // a name that would stand far from its place goes with the one before it
    if (last && x - c.at > 40) last.text += ` · ${c.name}`
    else out.push({ text: c.name, x, at: c.at, y: Math.max(props.y(c.level!), props.plot.y0) })
    const end = out.at(-1)!
    free = end.x + end.text.length * WIDE + 10
  }
  return out
})
</script>

<template>
  <g class="names" data-test="crossing-names">
    <g v-for="n in names" :key="n.at"><path :d="`M${n.at} ${plot.y0 - 2}V${n.y}`" /><text :x="n.x" :y="plot.y0 - 5">{{ n.text }}</text></g>
  </g>
</template>

<style scoped>
path { stroke: #b5bcc0; stroke-width: 0.8; stroke-dasharray: 2 3; fill: none; }
text { font-size: 11px; fill: var(--faded); }
</style>
