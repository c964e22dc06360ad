<script setup lang="ts">
/** One to three linked views; each stage has its own usual arrangement, splitters are remembered per person and stage. */
import { useLocalStorage } from '@vueuse/core'
import { computed, defineAsyncComponent, useTemplateRef } from 'vue'
import { useLook } from '@/stores/look'
import { STAGES, useUi, type ViewId } from '@/stores/ui'
import AlongView from '@/views/AlongView.vue'
import CrossfallView from '@/views/CrossfallView.vue'
import CrossView from '@/views/CrossView.vue'
import LongView from '@/views/LongView.vue'
import PlanView from '@/views/PlanView.vue'
import TableView from '@/views/TableView.vue'

const ui = useUi()
const look = useLook()
const VIEWS = {
  plan: PlanView,
  long: LongView,
  cross: CrossView,
  table: TableView,
  crossfall: CrossfallView,
  along: AlongView,
  bench: defineAsyncComponent(() => import('@/views/BenchView.vue')),
  model: defineAsyncComponent(() => import('@/views/ModelView.vue')),
}
// shares of the first column and the upper row, per stage
const shares = useLocalStorage<Record<string, { column: number; row: number }>>('ivory-shares', {})
const host = useTemplateRef<HTMLElement>('host')
const usual = computed(() =>
  ui.stage === 'sheets' ? { column: 0.3, row: 0.36 } : ui.stage === 'line' ? { column: 0.5, row: 0.66 } : { column: 0.6, row: 0.5 },
)
const share = computed(() => ({ ...usual.value, ...shares.value[ui.stage] }))

const views = computed<ViewId[]>(() => {
  const own = STAGES.find((s) => s.id === ui.stage)!.views.map((v, i, all) => (i === all.length - 1 ? (look.lower[ui.stage] ?? v) : v))
  if (ui.stage === 'ground' && look.groundModel) own.push('model')
  const open = look.tableOpen ? own : own.filter((v) => v !== 'table' && v !== 'crossfall')
  return ui.solo && own.includes(ui.solo) ? [ui.solo] : open
})
/** Two views stand one over the other; of three the first two stand side by side over the third. */
const layout = computed(() => {
  const [c, r] = [share.value.column, share.value.row]
  const both = `minmax(0, ${c}fr) 5px minmax(0, ${1 - c}fr)`
  const rows = `minmax(0, ${r}fr) 5px minmax(0, ${1 - r}fr)`
  if (views.value.length === 1) return { 'grid-template': 'minmax(0, 1fr) / minmax(0, 1fr)' }
  if (views.value.length === 2) return { 'grid-template': `${rows} / minmax(0, 1fr)` }
  return { 'grid-template': `${rows} / ${both}` }
})
const places = computed(() => (views.value.length === 3 ? ['1 / 1', '1 / 3', '3 / 1 / 4 / 4'] : ['1 / 1', '3 / 1']))

function split(event: PointerEvent, which: 'column' | 'row') {
  const bar = event.currentTarget as HTMLElement
  bar.setPointerCapture(event.pointerId)
  const box = host.value!.getBoundingClientRect()
  const move = (e: PointerEvent) => {
    const value = which === 'column' ? (e.clientX - box.left) / box.width : (e.clientY - box.top) / box.height
    shares.value = { ...shares.value, [ui.stage]: { ...share.value, [which]: Math.min(Math.max(value, 0.15), 0.85) } }
  }
  bar.addEventListener('pointermove', move)
  bar.addEventListener('pointerup', () => bar.removeEventListener('pointermove', move), { once: true })
}
</script>

<template>
  <main ref="host" class="mosaic" :style="layout">
    <component :is="VIEWS[v]" v-for="(v, i) in views" :key="v" :style="{ gridArea: places[i] }" />
    <div v-if="views.length > 1" class="bar row" :style="{ gridArea: views.length === 3 ? '2 / 1 / 3 / 4' : '2 / 1' }"
        @pointerdown="split($event, 'row')" />
    <div v-if="views.length === 3" class="bar column" :style="{ gridArea: '1 / 2' }" @pointerdown="split($event, 'column')" />
  </main>
</template>

<style scoped>
.mosaic { display: grid; padding: 5px; min-width: 0; min-height: 0; }
.bar { touch-action: none; }
.bar.row { cursor: row-resize; }
.bar.column { cursor: col-resize; }
.bar:hover { background: var(--rule); }
</style>
