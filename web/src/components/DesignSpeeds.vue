<script setup lang="ts">
/** The standard, and the design speeds along the road: the project's from the start, others each from its chainage on. */
import { computed, ref } from 'vue'
import type { Changes } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
import NumberField from './NumberField.vue'
import FoldGroup from './FoldGroup.vue'

const bench = useWorkbench()
const settings = computed(() => bench.project.value?.settings)
const speeds = computed(() => bench.road.value?.speeds ?? [])
const wrong = ref('')
const setProject = (values: Changes['project']) => bench.change('project', bench.projectId, values)
async function put(next: [number, number][]) {
  wrong.value = ''
  const road = bench.road.value!
  const done = await bench.put('road', road.id, 'speeds', { speeds: next }, { silentFailure: true })
  if (!done) wrong.value = bench.failure.value?.message ?? ''
}
const change = (i: number, k: 0 | 1, value: number | null) =>
  value !== null && put(speeds.value.map((row, j) => (j === i ? (k ? [row[0], value] : [value, row[1]]) : row)))
const add = () =>
  put([
    ...speeds.value,
    [Math.round(bench.limits.value[0] + (bench.limits.value[1] - bench.limits.value[0]) / 2), settings.value?.design_speed ?? 60],
  ])
</script>

<template>
  <FoldGroup title="Standard and speeds">
    <div v-if="settings" class="pick"><label for="standard">Standard</label><select id="standard" class="field" :value="settings.standard"
        :disabled="!bench.canEdit.value" data-test="standard"
        @change="setProject({ standard: ($event.target as HTMLSelectElement).value })"><option
        v-for="s in bench.project.value!.standards" :key="s.id" :value="s.id" :title="s.source">{{ s.name }}</option></select></div>
    <NumberField v-if="settings" label="Design speed" :model-value="settings.design_speed" :decimals="0" unit="km/h"
        :disabled="!bench.canEdit.value" test="design-speed" @change="$event && setProject({ design_speed: $event })" />
    <div v-for="(row, i) in speeds" :key="i" class="zone">
      <NumberField compact label="from" kind="station" :model-value="row[0]" :decimals="0" :group="bench.style.value.group"
          :disabled="!bench.canEdit.value" told-elsewhere @change="change(i, 0, $event)" />
      <NumberField compact label="speed" :model-value="row[1]" :decimals="0" unit="km/h" :disabled="!bench.canEdit.value" told-elsewhere
          :test="`speed-${i + 1}`" @change="change(i, 1, $event)" />
      <button v-if="bench.canEdit.value" class="btn quiet" :aria-label="`Delete design speed ${i + 1}`"
          @click="put(speeds.filter((_, j) => j !== i))">×</button>
    </div>
    <button v-if="bench.canEdit.value && bench.road.value && bench.design.value?.line" class="link" data-test="add-speed"
        @click="add">Another speed from a chainage on</button>
    <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
  </FoldGroup>
</template>

<style scoped>
.pick { display: grid; grid-template-columns: 80px 1fr; align-items: center; margin: 3px 0; }
.pick label { color: var(--faded); }
.zone { display: grid; grid-template-columns: 1fr 1fr auto; gap: 4px; align-items: center; }
.zone .btn { padding: 0 6px; min-height: 26px; }
</style>
