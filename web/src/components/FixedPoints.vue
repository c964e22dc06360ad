<script setup lang="ts">
/** Levels that the profile is to hit or to stay above or below; added at the reading mark, edited by number. */
import { computed, ref } from 'vue'
import type { FixedPoint } from '@/api/types'
import { levelAt } from '@/canvas/shared/alongLine'
import { useWorkbench } from '@/composables/workbench'
import { useUi } from '@/stores/ui'
import NumberField from './NumberField.vue'
import FoldGroup from './FoldGroup.vue'

const bench = useWorkbench()
const ui = useUi()
const points = computed(() => bench.road.value?.fixed_points ?? [])
const wrong = ref('')
const KINDS = { exact: 'hits', above: 'stays above', below: 'stays below' }
async function put(next: FixedPoint[]) {
  wrong.value = ''
  const done = await bench.put('road', ui.roadId!, 'fixed-points', { points: next }, { silentFailure: true })
  if (!done) wrong.value = bench.failure.value?.message ?? ''
}
const change = (i: number, values: Partial<FixedPoint>) => put(points.value.map((p, k) => (k === i ? { ...p, ...values } : p)))
function add() {
  const level = levelAt(bench.design.value?.levels?.points ?? [], ui.mark) ?? 0
  void put([
    ...points.value,
    { station: Math.round(ui.mark * 1000) / 1000, level: Math.round(level * 1000) / 1000, kind: 'exact', name: '' },
  ])
}
</script>

<template>
  <FoldGroup title="Fixed points">
    <div v-for="(p, i) in points" :key="i" class="fixed">
      <select class="field" :value="p.kind" :disabled="!bench.canEdit.value" :aria-label="`Fixed point ${i + 1}, kind`"
          :data-test="`fixed-${i + 1}-kind`"
          @change="change(i, { kind: ($event.target as HTMLSelectElement).value as FixedPoint['kind'] })"><option
          v-for="(name, k) in KINDS" :key="k" :value="k">{{ name }}</option></select>
      <NumberField compact :label="`Fixed point ${i + 1}, level`" :model-value="p.level" unit="m" :disabled="!bench.canEdit.value"
          :test="`fixed-${i + 1}-level`" @change="(v) => v !== null && change(i, { level: v })" />
      <NumberField compact :label="`Fixed point ${i + 1}, chainage`" kind="station" :decimals="2" :group="bench.style.value.group"
          :model-value="p.station" :disabled="!bench.canEdit.value" @change="(v) => v !== null && change(i, { station: v })" />
      <button v-if="bench.canEdit.value" class="btn quiet" :aria-label="`Delete fixed point ${i + 1}`"
          @click="put(points.filter((_, k) => k !== i))">×</button>
      <input class="field name" :value="p.name" placeholder="what it is" maxlength="60" :disabled="!bench.canEdit.value"
          :aria-label="`Fixed point ${i + 1}, name`" @change="change(i, { name: ($event.target as HTMLInputElement).value.trim() })" />
    </div>
    <p v-if="!points.length" class="faded">A bridge, a crossing road, a flood level: what the profile has to hit or keep clear of.</p>
    <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
    <div v-if="bench.canEdit.value" class="actions"><button class="btn quiet" data-test="fixed-add"
        @click="add">Add at {{ bench.station(ui.mark) }}</button></div>
  </FoldGroup>
</template>

<style scoped>
.fixed { display: grid; grid-template-columns: 74px 66px 1fr 22px; gap: 4px; margin-bottom: 6px; align-items: center; }
.fixed .field { min-height: 26px; padding: 1px 4px; min-width: 0; }
.name { grid-column: 1 / 4; }
</style>
