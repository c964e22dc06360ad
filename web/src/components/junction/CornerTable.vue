<script setup lang="ts">
/** The corners of a junction: a row each, named by the compass; the first row sets all of them at once. */
import { computed } from 'vue'
import type { CornerRow, CornerShape, JunctionRow } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import { useWorkbench } from '@/composables/workbench'
import { bareLength } from '@/lib/units'
import { useUi } from '@/stores/ui'

const props = defineProps<{ junction: JunctionRow }>()
const emit = defineEmits<{ shape: [corners: CornerRow[], values: Partial<CornerShape>] }>()
const bench = useWorkbench()
const ui = useUi()
const LEVELS = { straight: 'straight', single: 'one curve', reverse: 'reverse pair', pinned: 'pinned' }
const alike = computed(() => {
  const radii = new Set(props.junction.corners.filter((c) => c.shape.form !== 'none').map((c) => c.shape.radius))
  return radii.size === 1 ? [...radii][0]! : null
})
</script>

<template>
  <table class="grid" aria-label="Corners">
    <thead><tr><th>Corner</th><th class="num">Radius</th><th class="num">Length</th><th>Levels</th></tr></thead>
    <tbody>
      <tr><td class="faded">all</td><td class="num"><NumberField compact label="Radius of all corners" unit="m" :decimals="2"
          :model-value="alike" empty="differ" :disabled="!bench.canEdit.value" test="radius-all"
          @change="(v) => v !== null && emit('shape', junction.corners, { radius: v })" /></td><td></td><td></td></tr>
      <tr v-for="c in junction.corners" :key="c.road_id" :class="{ here: c.road_id === ui.roadId }" :data-test="`corner-row-${c.compass}`">
        <td><button class="btn quiet" :title="c.name" @click="ui.roadId = c.road_id">{{ c.compass }}</button></td>
        <td class="num"><NumberField compact :label="`Radius of corner ${c.compass}`" unit="m" :decimals="2"
            :model-value="c.shape.form === 'none' ? null : c.shape.radius" empty="none"
            :disabled="!bench.canEdit.value || c.shape.form === 'none'" :test="`radius-${c.compass}`"
            @change="(v) => v !== null && emit('shape', [c], { radius: v })" /></td>
        <td class="num">{{ c.length === undefined ? '–' : bareLength(c.length, 2) }}</td>
        <td :class="{ pinned: c.levels === 'pinned' }" data-test="corner-levels">{{ c.levels ? LEVELS[c.levels] : '–' }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.grid { width: 100%; }
.grid .btn { padding: 0 4px; min-height: 22px; }
.num :deep(.number) { width: 62px; }
.grid th, .grid td { padding-left: 2px; padding-right: 4px; }
.pinned { color: var(--ochre-text); font-weight: 600; }
</style>
