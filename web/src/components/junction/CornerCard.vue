<script setup lang="ts">
/** The chosen corner: its shape, its tangent points, and what the edges of both roads demand there. */
import { computed } from 'vue'
import type { CornerRow, CornerShape, JunctionRow } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import { useWorkbench } from '@/composables/workbench'
import { formatGrade, formatNumber } from '@/lib/format'
import { sayLength } from '@/lib/units'

const props = defineProps<{ corner: CornerRow; junction: JunctionRow }>()
const emit = defineEmits<{ shape: [corners: CornerRow[], values: Partial<CornerShape>] }>()
const bench = useWorkbench()
const set = (values: Partial<CornerShape>) => emit('shape', [props.corner], values)
const nameOf = (id: number) => bench.project.value?.roads.find((r) => r.id === id)?.name ?? ''
const ends = computed(() =>
  (['start', 'end'] as const).flatMap((which) => {
    const end = props.corner[which]
    return end ? [{ which, ...end, road: nameOf(which === 'start' ? props.junction.main : props.junction.side) }] : []
  }),
)
const FORMS: Record<CornerShape['form'], string> = {
  radius: 'one radius',
  taper: 'taper and radius',
  'three centres': 'three centres',
  none: 'none, edges meet',
}
</script>

<template>
  <h3>Corner {{ corner.compass }}</h3>
  <div class="ask wide"><label for="corner-form">Shape</label><select id="corner-form" class="field" :value="corner.shape.form"
      :disabled="!bench.canEdit.value" data-test="corner-form"
      @change="set({ form: ($event.target as HTMLSelectElement).value as CornerShape['form'] })"><option v-for="(name, k) in FORMS"
      :key="k" :value="k">{{ name }}</option></select></div>
  <template v-if="corner.shape.form === 'taper'">
    <NumberField label="Taper 1 in" kind="number" :decimals="1" :model-value="corner.shape.taper" :least="2" :greatest="50"
        :disabled="!bench.canEdit.value" test="corner-taper" @change="(v) => v !== null && set({ taper: v })" />
    <NumberField label="Taper over" unit="m" :decimals="2" :model-value="corner.shape.taper_length" :least="1" :greatest="100"
        :disabled="!bench.canEdit.value" test="corner-taper-length" @change="(v) => v !== null && set({ taper_length: v })" />
  </template>
  <template v-if="corner.shape.form === 'three centres'">
    <NumberField label="Outer radii" unit="m" :decimals="2" :model-value="corner.shape.outer_radius" :least="1" :greatest="1000"
        :disabled="!bench.canEdit.value" test="corner-outer" @change="(v) => v !== null && set({ outer_radius: v })" />
    <NumberField label="Middle arc stands off by" unit="m" :decimals="2" :model-value="corner.shape.shift" :least="0.01" :greatest="20"
        :disabled="!bench.canEdit.value" test="corner-shift" @change="(v) => v !== null && set({ shift: v })" />
  </template>
  <div v-for="e in ends" :key="e.which" class="end" :data-test="`corner-${e.which}`">
    <div class="value"><span>On {{ e.road }}</span><b>{{ bench.station(e.station, 2) }}</b></div>
    <div class="value"><span>Its edge there</span><b>{{ sayLength(e.edge_level, 3) }}, {{ formatGrade(e.edge_grade) }}</b></div>
    <div v-if="Math.abs(e.level - e.edge_level) > 5e-4" class="value step" data-test="corner-step"><span>Step of the return</span><b>{{
      formatNumber(1000 * (e.level - e.edge_level), 0) }} mm</b></div>
  </div>
</template>

<style scoped>
.end { margin-top: 6px; }
.step { color: var(--madder); }
</style>
