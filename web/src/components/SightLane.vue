<script setup lang="ts">
/** Stopping sight along the road as a lane over the long section: what is seen ahead and back against what is asked for. */
import { useQuery } from '@tanstack/vue-query'
import type { ScaleLinear } from 'd3-scale'
import { computed } from 'vue'
import { api } from '@/api/client'
import type { SightLane } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
import { sayLength } from '@/lib/units'
import { useUi } from '@/stores/ui'

const props = defineProps<{ x: ScaleLinear<number, number>; x0: number; x1: number; top: number; height: number }>()
const bench = useWorkbench()
const ui = useUi()
const query = useQuery({
  queryKey: computed(() => ['sight', ui.roadId, bench.saved.value?.key]),
  queryFn: () => api.get<SightLane | null>(`/roads/${ui.roadId}/sight`),
  enabled: computed(() => !!bench.saved.value?.levels),
  placeholderData: (before) => before,
})
const lane = computed(() => query.data.value ?? null)
const most = computed(() => Math.max(...(lane.value?.required ?? [100])) * 1.7)
const y = (v: number | null) => props.top + props.height - (Math.min(v ?? Infinity, most.value) / most.value) * props.height
const path = (values: (number | null)[]) =>
  lane.value!.station.map((s, i) => `${i ? 'L' : 'M'}${props.x(s).toFixed(1)} ${y(values[i]!).toFixed(1)}`).join('')
/** Where less is seen than is asked for. */
const short = computed(() => {
  const l = lane.value
  if (!l) return ''
  let text = ''
  l.station.forEach((s, i) => {
    const seen = Math.min(l.ahead[i] ?? Infinity, l.back[i] ?? Infinity)
    if (seen < l.required[i]! - 1e-6) {
      const half = (props.x(l.station[Math.min(i + 1, l.station.length - 1)]!) - props.x(l.station[Math.max(i - 1, 0)]!)) / 4
      text += `M${props.x(s) - half} ${y(seen)}H${props.x(s) + half}V${y(l.required[i]!)}H${props.x(s) - half}Z`
    }
  })
  return text
})
const at = computed(() => {
  const l = lane.value
  if (!l) return ''
  const i = l.station.reduce((best, s, k) => (Math.abs(s - ui.mark) < Math.abs(l.station[best]! - ui.mark) ? k : best), 0)
  const told = (v: number | null | undefined) => (v === null || v === undefined ? 'freely' : sayLength(v, 0))
  return `sees ${told(l.ahead[i])} ahead, ${told(l.back[i])} back; ${sayLength(l.required[i]!, 0)} needed`
})
</script>

<template>
  <g data-test="sight-lane">
    <rect :x="x0" :y="top" :width="x1 - x0" :height="height" class="paper" />
    <template v-if="lane">
      <path :d="short" class="short" data-test="sight-short" /><path :d="path(lane.required)" class="required" /><path
          :d="path(lane.ahead)" class="seen" /><path :d="path(lane.back)" class="seen back" />
      <text :x="x0 + 6" :y="top + 12">Sight: {{ at }}</text>
    </template>
    <text v-else :x="x0 + 6" :y="top + 12">{{ query.isLoading.value ? 'Sight …' : 'This standard has no sight distances.' }}</text>
  </g>
</template>

<style scoped>
.paper { fill: #fffffff0; stroke: var(--rule); }
.required { fill: none; stroke: var(--ink); stroke-dasharray: 5 3; }
.seen { fill: none; stroke: var(--petrol); stroke-width: 1.5; }
.seen.back { stroke-dasharray: 2 2; }
.short { fill: var(--madder); fill-opacity: 0.45; }
text { font-size: 11px; fill: var(--ink); paint-order: stroke; stroke: #fff; stroke-width: 3px; }
</style>
