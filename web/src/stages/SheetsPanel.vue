<script setup lang="ts">
import { ref } from 'vue'
import { api } from '@/api/client'
import type { Acted } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import { units } from '@/lib/units'
import { useRefusals } from '@/composables/useRefusals'
import { useWorkbench } from '@/composables/workbench'

const bench = useWorkbench()
const sheets = bench.sheets
const { wrong, run } = useRefusals(bench, () => sheets.value?.id)
async function set(field: string, value: unknown) {
  const s = sheets.value!
  await run(field, () => bench.change('sheets', s.id, { [field]: value }, { silentFailure: true }))
}
/** A text of the cross sections on or off. */
function write(text: 'slopes' | 'widths' | 'names' | 'layers') {
  const now = sheets.value!.section_texts
  return set('section_texts', now.includes(text) ? now.filter((t) => t !== text) : [...now, text])
}
const remark = ref('')
const issuing = ref(false)
async function issue() {
  issuing.value = true
  const s = sheets.value!
  const done = await run('issue', () => bench.post('sheets', s.id, 'issue', { remark: remark.value }, { silentFailure: true }))
  issuing.value = false
  if (done) remark.value = ''
}
</script>

<template>
  <h2>Sheets <small>stage 8</small></h2>
  <template v-if="!sheets">
    <p class="faded">{{ bench.road.value ? `${bench.road.value.name} has no sheets.`
      : 'Sheets are cut along a road as soon as there is one.' }}</p>
    <div v-if="bench.road.value && bench.canEdit.value" class="actions"><button class="btn primary" data-test="make-sheets"
        @click="bench.act(() => api.post<Acted>(`/roads/${bench.road.value!.id}/sheet-set`))">Make sheets of it</button></div>
  </template>
  <template v-else>
    <div class="pick"><label for="paper">Paper</label><select id="paper" class="field" :value="sheets.paper"
        :disabled="!bench.canEdit.value" data-test="paper"
        @change="set('paper', ($event.target as HTMLSelectElement).value)"><option>A1</option><option>A3</option></select></div>
    <NumberField label="Plan 1 :" :model-value="sheets.scale" :decimals="0" :disabled="!bench.canEdit.value" :wrong="wrong.scale"
        test="sheet-scale" @change="set('scale', $event)" />
    <NumberField label="Vertical exaggeration" :model-value="sheets.exaggeration" :decimals="0" unit="×" :disabled="!bench.canEdit.value"
        :wrong="wrong.exaggeration" @change="set('exaggeration', $event)" />
    <NumberField label="Bands every" :model-value="sheets.band_interval" :decimals="units.metre === 1 ? 0 : 2" unit="m"
        :disabled="!bench.canEdit.value" :wrong="wrong.band_interval" @change="set('band_interval', $event)" />
    <hr />
    <NumberField label="Sections 1 :" :model-value="sheets.section_scale" :decimals="0" :disabled="!bench.canEdit.value"
        :wrong="wrong.section_scale" @change="set('section_scale', $event)" />
    <NumberField label="One every" :model-value="sheets.section_interval" :decimals="units.metre === 1 ? 0 : 2" unit="m"
        :disabled="!bench.canEdit.value" :wrong="wrong.section_interval" @change="set('section_interval', $event)" />
    <fieldset class="texts"><legend>In the sections</legend>
      <label v-for="t in (['slopes', 'widths', 'names', 'layers'] as const)" :key="t"><input type="checkbox"
          :checked="sheets.section_texts.includes(t)" :disabled="!bench.canEdit.value" :data-test="`section-${t}`"
          @change="write(t)" /> {{ t }}</label></fieldset>
    <hr />
    <label class="text">Drawing number <input class="field" :value="sheets.drawing_number" maxlength="40" :disabled="!bench.canEdit.value"
        @change="set('drawing_number', ($event.target as HTMLInputElement).value)" /></label>
    <label class="text">Revision <input class="field" :value="sheets.revision_mark" maxlength="8" :disabled="!bench.canEdit.value"
        @change="set('revision_mark', ($event.target as HTMLInputElement).value)" /></label>
    <div v-if="bench.canEdit.value" class="issue">
      <input v-model="remark" class="field" maxlength="300" placeholder="Remark, e.g. for approval" aria-label="Remark of the issue"
          data-test="issue-remark" />
      <button class="btn primary" :disabled="issuing" data-test="issue" @click="issue">Issue {{ sheets.revision_mark }}</button>
      <p v-if="wrong.issue" class="wrong">{{ wrong.issue }}</p>
    </div>
    <p class="faded">Sheets follow the model at once. Their frames stand in the plan.</p>
    <button v-if="bench.canEdit.value" class="link" data-test="delete-sheets"
        @click="bench.remove('sheets', sheets.id)">Delete these sheets</button>
  </template>
</template>

<style scoped>
.pick { display: grid; grid-template-columns: 1fr 112px 26px; column-gap: 8px; align-items: center; margin: 3px 0; }
.issue { display: grid; grid-template-columns: 1fr auto; gap: 6px; margin: 10px 0 6px; }
.issue .wrong { grid-column: 1 / -1; margin: 0; }
.texts { border: 0; padding: 0; margin: 6px 0; display: flex; flex-wrap: wrap; gap: 2px 12px; color: var(--faded); }
.texts legend { padding: 0; }
.texts label { color: var(--ink); }
.pick label, .text { color: var(--faded); }
.text { display: grid; gap: 3px; margin: 6px 0; }
.text .field { color: var(--ink); }
</style>
