<script setup lang="ts">
/** The library, and the project's own parts: a click puts one into the template, or lays it on the bench alone. */
import { computed, onMounted, ref } from 'vue'
import { useWorkbench } from '@/composables/workbench'
import { api } from '@/api/client'
import type { Acted } from '@/api/types'
import SmallDrawing from './SmallDrawing.vue'

const emit = defineEmits<{ close: [] }>()
const bench = useWorkbench()
const shop = bench.partBench
const name = ref('')
const find = ref('')
onMounted(() => void shop.needLibrary())
const parts = computed(() =>
  (shop.library.value?.parts ?? []).filter((p) => `${p.label} ${p.remark}`.toLowerCase().includes(find.value.trim().toLowerCase())),
)
const side = computed(() => shop.inHand.value?.side ?? 'right')
/** the part in hand gives way to the one that is clicked; values of the same name stay */
const instead = ref(false)
const inHand = computed(() => shop.template.value?.[side.value].find((p) => p.id === shop.chosen.value?.id) ?? null)
async function put(ref_: string | number, label: string) {
  if (!shop.template.value) return void (await shop.newPart(label, ref_))
  const stem = typeof ref_ === 'string' ? ref_ : 'part'
  const done = await shop.editSides(
    side.value,
    (rows) => {
      const at = rows.findIndex((r) => r.id === shop.chosen.value?.id)
      const row = { id: stem, part: ref_, values: {}, targets: {} }
      if (instead.value && at >= 0) return rows.map((r, i) => (i === at ? { ...r, part: ref_ } : r))
      return at < 0 ? [...rows, row] : [...rows.slice(0, at + 1), row, ...rows.slice(at + 1)]
    },
    instead.value ? 'Swap a part' : 'Add a part',
  )
  if (done) emit('close')
}
async function make() {
  if (!name.value.trim()) return
  if (await shop.newPart(name.value.trim())) emit('close')
}
function lay(id: number) {
  shop.picked.value = { kind: 'part', id }
  emit('close')
}
const dropPart = (id: number) => bench.remove('part', id)
async function bringIn(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  const content = await file.text()
  await bench.act(() => api.post<Acted>(`/projects/${bench.projectId}/parts.json`, { name: file.name, content }))
}
</script>

<template>
  <div class="library" data-test="library" role="region" aria-label="Library">
    <div class="bar">
      <input v-model="find" class="field find" placeholder="Find a part" aria-label="Find a part" />
      <template v-if="bench.canEdit.value">
        <input v-model="name" class="field name" placeholder="Name of a new part" aria-label="Name of a new part" data-test="new-part-name"
            @keydown.enter="make" />
        <button class="btn" :disabled="!name.trim()" data-test="new-part" @click="make">New part</button>
        <label class="btn">Bring in…<input type="file" accept=".json" class="visually-hidden" data-test="parts-file" @change="bringIn"
            /></label>
      </template>
      <label v-if="inHand && bench.canEdit.value" class="instead"><input v-model="instead" type="checkbox" data-test="instead" /> in
        place of {{ inHand.label }}</label>
      <button class="btn quiet close" data-test="library-close" @click="emit('close')">Back to the drawing</button>
    </div>
    <template v-if="bench.project.value?.parts.length">
      <h3>Own parts</h3>
      <div class="grid">
        <div v-for="p in bench.project.value.parts" :key="p.id" class="part own">
          <SmallDrawing v-if="p.picture" :lines="p.picture.lines" :areas="p.picture.areas" :width="150" :height="64" />
          <b>{{ p.label }}</b>
          <p>{{ p.remark || (p.templates.length ? `in ${p.templates.join(', ')}` : 'in no template yet') }}</p>
          <div class="acts">
            <button class="link" :data-test="`open-part-${p.id}`" @click="lay(p.id)">open</button>
            <button v-if="bench.canEdit.value && shop.template.value" class="link" :data-test="`put-part-${p.id}`"
                @click="put(p.id, p.label)">put into {{ shop.template.value.name }}, {{ side }}</button>
            <a class="link" :href="`/api/projects/${bench.projectId}/parts.json?part=${p.id}`" download>save to a file</a>
            <button v-if="bench.canEdit.value && !p.templates.length" class="link" :data-test="`drop-part-${p.id}`"
                @click="dropPart(p.id)">delete</button>
          </div>
        </div>
      </div>
    </template>
    <h3>Library</h3>
    <div class="grid">
      <button v-for="p in parts" :key="p.name" class="part" :disabled="!bench.canEdit.value" :data-test="`library-${p.name}`"
          :title="shop.template.value ? `Put into ${shop.template.value.name}, ${side}` : 'Copy to a part of the project'"
              @click="put(p.name, p.label)">
        <SmallDrawing :lines="p.picture.lines" :areas="p.picture.areas" :width="150" :height="64" />
        <b>{{ p.label }}</b>
        <p>{{ p.remark }}</p>
      </button>
    </div>
    <p v-if="!parts.length && shop.library.value" class="faded">No part of the library has that in its name or remark.</p>
  </div>
</template>

<style scoped>
.library { flex: 1; min-height: 0; overflow-y: auto; padding: 8px 10px; }
.bar { display: flex; gap: 6px; flex-wrap: wrap; margin-bottom: 8px; }
.find { width: 150px; }
.name { width: 170px; }
.close { margin-left: auto; }
.instead { display: flex; gap: 4px; align-items: center; font-size: 12px; }
h3 { margin: 10px 0 6px; }
.grid { display: grid; grid-template-columns: repeat(auto-fill, minmax(164px, 1fr)); gap: 8px; }
.part {
  border: 1px solid var(--rule); border-radius: 4px; background: var(--sheet); padding: 6px 8px; text-align: left; cursor: pointer;
  display: flex; flex-direction: column; align-items: flex-start; gap: 2px;
}
.part:hover:not(:disabled) { border-color: var(--petrol); }
.part.own { cursor: default; }
.part p { margin: 0; font-size: 12px; color: var(--faded); }
.acts { display: flex; flex-wrap: wrap; gap: 10px; font-size: 12px; }
</style>
