<script setup lang="ts">
/** A small picture of a part or a section: ground, areas, finished line. True to scale, fitted into its box. */
import { computed } from 'vue'

type Pair = readonly [number, number] | readonly number[]
const props = defineProps<{
  lines: readonly (readonly [string, readonly Pair[]] | readonly unknown[])[]
  areas: readonly (readonly unknown[])[]
  width: number
  height: number
  reach?: number
}>()
const rows = computed(() => props.lines as unknown as [string, [number, number][]][])
const filled = computed(() => props.areas as unknown as [string, [number, number][]][])
const view = computed(() => {
  const own = rows.value.filter(([kind]) => kind !== 'ground').flatMap(([, line]) => line)
  const all = [...own, ...filled.value.flatMap(([, loop]) => loop)]
  if (!all.length) return null
  const o = all.map((p) => p[0]),
    z = all.map((p) => p[1])
  const [o0, o1, z0, z1] = [Math.min(...o), Math.max(...o), Math.min(...z), Math.max(...z)]
  const per = Math.max((o1 - o0) / (props.width - 10), (z1 - z0) / (props.height - 10), 0.004)
  const [mo, mz] = [(o0 + o1) / 2, (z0 + z1) / 2]
  const x = (o: number) => (props.width / 2 + (o - mo) / per).toFixed(1)
  const y = (z: number) => (props.height / 2 - (z - mz) / per).toFixed(1)
  return (p: readonly number[]) => `${x(p[0]!)} ${y(p[1]!)}`
})
const path = (line: readonly (readonly number[])[]) => (line.length > 1 ? `M${line.map(view.value!).join('L')}` : '')
</script>

<template>
  <svg :width="width" :height="height" :viewBox="`0 0 ${width} ${height}`" aria-hidden="true">
    <template v-if="view">
      <polygon v-for="([colour, loop], i) in filled" :key="`a${i}`" :points="loop.map(view).join(' ')" :fill="colour" />
      <path v-for="([kind, line], i) in rows" :key="i" :d="path(line)" :class="kind" />
    </template>
  </svg>
</template>

<style scoped>
svg { display: block; overflow: hidden; }
path { fill: none; stroke: var(--petrol); stroke-width: 1.8; stroke-linejoin: round; }
.ground { stroke: var(--earth); stroke-width: 1.3; }
.guide { stroke: var(--ochre); stroke-width: 1; stroke-dasharray: 3 2; }
</style>
