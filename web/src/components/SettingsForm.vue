<script setup lang="ts">
import { computed } from 'vue'
import type { Changes } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
import NumberField from './NumberField.vue'

const bench = useWorkbench()
const s = computed(() => bench.project.value?.settings)
const set = (values: Changes['project']) => bench.change('project', bench.projectId, values)
</script>

<template>
  <template v-if="s">
    <label class="text">Name <input class="field" :value="bench.project.value!.name" :disabled="!bench.canEdit.value" maxlength="120"
        @change="set({ name: ($event.target as HTMLInputElement).value })" /></label>
    <label class="text">Coordinate reference <input class="field" :value="s.coordinate_reference" :disabled="!bench.canEdit.value"
        maxlength="120" @change="set({ coordinate_reference: ($event.target as HTMLInputElement).value })" /></label>
    <label class="text">Chainages are written <select class="field" :value="s.chainage_group" :disabled="!bench.canEdit.value"
        @change="set({ chainage_group: Number(($event.target as HTMLSelectElement).value) as 100 | 1000 })"><option
        :value="1000">1+250.000</option><option :value="100">12+50.00</option></select></label>
    <label class="text">and called <select class="field" :value="s.chainage_word" :disabled="!bench.canEdit.value"
        @change="set({ chainage_word: ($event.target as HTMLSelectElement).value as 'Chainage' | 'Station'
        })"><option>Chainage</option><option>Station</option></select></label>
    <label class="text">Lengths <select class="field" :value="s.length_unit" :disabled="!bench.canEdit.value" data-test="length-unit"
        @change="set({ length_unit: ($event.target as HTMLSelectElement).value as Changes['project']['length_unit'] })"><option
        value="m">metres</option><option value="ft">feet (0.3048 m)</option><option
        value="us-ft">US survey feet (1200/3937 m)</option></select></label>
    <NumberField label="Design speed" :model-value="s.design_speed" :decimals="0" unit="km/h" :disabled="!bench.canEdit.value"
        @change="set({ design_speed: $event })" />
    <NumberField label="Greatest grade" kind="grade" :model-value="s.greatest_grade" :decimals="2" unit="%"
        :disabled="!bench.canEdit.value" test="greatest-grade" @change="set({ greatest_grade: $event })" />
    <NumberField label="Least K" :model-value="s.least_k" :decimals="1" unit="m/%" :disabled="!bench.canEdit.value"
        @change="set({ least_k: $event })" />
    <p class="faded">The fit of a first profile keeps to the greatest grade and the least K.</p>
  </template>
</template>

<style scoped>
.text { display: grid; grid-template-columns: 1fr 260px; align-items: center; color: var(--faded); margin: 5px 0; }
.text .field { color: var(--ink); }
</style>
