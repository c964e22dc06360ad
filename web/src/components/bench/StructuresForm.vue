<script setup lang="ts">
/** The project's pavement structures: layers from the top, thickness held against what is plausible. */
import { ref } from 'vue'
import type { StructureTold } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import { useWorkbench } from '@/composables/workbench'

const bench = useWorkbench()
const shop = bench.partBench
const open = ref<number | null>(null)
const USUAL = [
  { material: 'surfacing', thickness: 0.1, least: 0.02, greatest: 0.2, step_out: 0 },
  { material: 'base', thickness: 0.2, least: 0.05, greatest: 0.4, step_out: 0 },
  { material: 'subbase', thickness: 0.25, least: 0.1, greatest: 0.6, step_out: 0 },
]
async function add() {
  const done = (await shop.post('structures', { name: 'Pavement', layers: USUAL })) as { structure_id?: number } | null
  if (done?.structure_id) open.value = done.structure_id
}
const change = (s: StructureTold, layers: object[]) => bench.change('structure', s.id, { layers: layers as never })
const set = (s: StructureTold, i: number, fields: object) =>
  change(
    s,
    s.layers.map((l, j) => (j === i ? { ...l, ...fields } : l)),
  )
</script>

<template>
  <h3>Pavement structures</h3>
  <div v-for="s in bench.project.value?.structures ?? []" :key="s.id" class="structure">
    <button class="link" :aria-expanded="open === s.id" :data-test="`structure-${s.id}`"
        @click="open = open === s.id ? null : s.id"><b>{{ s.name }}</b></button>
    <p v-for="t in s.told" :key="t" class="card doubt">{{ t }}</p>
    <template v-if="open === s.id">
      <label class="name">name <input class="field" :value="s.name" :disabled="!bench.canEdit.value"
          @change="bench.change('structure', s.id, { name: ($event.target as HTMLInputElement).value })" /></label>
      <div v-for="(l, i) in s.layers" :key="i" class="layer">
        <input class="field" list="materials" :value="l.material" :disabled="!bench.canEdit.value"
            :aria-label="`Material of layer ${i + 1}`"
            @change="set(s, i, { material: ($event.target as HTMLInputElement).value })" />
        <NumberField label="thickness" :model-value="l.thickness" unit="m" :disabled="!bench.canEdit.value" :test="`layer-${i}-thickness`"
            @change="$event !== null && set(s, i, { thickness: $event })" />
        <NumberField label="steps out by" :model-value="l.step_out" unit="m" :disabled="!bench.canEdit.value" :test="`layer-${i}-step`"
            @change="set(s, i, { step_out: $event ?? 0 })" />
        <button v-if="s.layers.length > 1 && bench.canEdit.value" class="link"
            @click="change(s, s.layers.filter((_, j) => j !== i))">delete this layer</button>
      </div>
      <p v-if="bench.canEdit.value" class="acts"><button class="link" @click="change(s, [...s.layers, { ...USUAL[2]! }])">+ layer</button>
        <button class="link" @click="bench.remove('structure', s.id)">delete the structure</button></p>
    </template>
  </div>
  <p v-if="bench.canEdit.value"><button class="link" data-test="add-structure" @click="add">+ Pavement structure</button></p>
</template>

<style scoped>
.structure { margin: 4px 0; }
.layer { border-left: 2px solid var(--rule); padding-left: 8px; margin: 4px 0; font-size: 12px; }
.layer > .field { width: 140px; min-height: 24px; }
.name .field { width: 150px; min-height: 24px; }
.acts { display: flex; gap: 12px; font-size: 12px; }
</style>
