<script setup lang="ts">
/** What is selected, or the stage's overview and its one next sensible step. */
import { computed } from 'vue'
import NodeCard from '@/components/cross/NodeCard.vue'
import EarthworkPanel from '@/stages/EarthworkPanel.vue'
import GroundPanel from '@/stages/GroundPanel.vue'
import JunctionsPanel from '@/stages/JunctionsPanel.vue'
import LevelsPanel from '@/stages/LevelsPanel.vue'
import LinePanel from '@/stages/LinePanel.vue'
import RoadPanel from '@/stages/RoadPanel.vue'
import SectionsPanel from '@/stages/SectionsPanel.vue'
import SheetsPanel from '@/stages/SheetsPanel.vue'
import { useUi } from '@/stores/ui'

const ui = useUi()
const PANELS = {
  ground: GroundPanel,
  line: LinePanel,
  levels: LevelsPanel,
  sections: SectionsPanel,
  road: RoadPanel,
  junctions: JunctionsPanel,
  earthwork: EarthworkPanel,
  sheets: SheetsPanel,
}
const node = computed(() => (ui.selection?.kind === 'node' ? ui.selection : null))
const panel = computed(() => PANELS[ui.stage])
</script>

<template>
  <aside class="inspector" aria-label="Inspector" data-test="inspector"><NodeCard v-if="node" :side="node.side"
      :node="node.node" @close="ui.selection = null" /><component :is="panel" /></aside>
</template>

<style scoped>
.inspector { position: relative; border-left: 1px solid var(--rule); background: var(--sheet); overflow-y: auto; padding: 12px 14px 20px; }
.inspector :deep(h2) { margin-bottom: 8px; display: flex; justify-content: space-between; align-items: baseline; gap: 8px; }
.inspector :deep(h2 small) { font-family: var(--face); font-weight: 400; font-size: 12px; color: var(--faded); }
.inspector :deep(hr) { border: 0; border-top: 1px solid var(--rule); margin: 14px 0; }
.inspector :deep(.value) { display: flex; justify-content: space-between; gap: 12px; padding: 3px 0; border-bottom: 1px solid #f0ebdf; }
.inspector :deep(.value b) { font-weight: 600; text-align: right; }
.inspector :deep(.actions) { display: flex; flex-wrap: wrap; gap: 6px; margin: 10px 0; }
.inspector :deep(p) { margin: 6px 0; }
</style>
