<script setup lang="ts">
/** The project's sorting rules, in order: the first whose pattern and type fit gives a layer its role. */
import { computed, ref, watch } from 'vue'
import { api } from '@/api/client'
import type { SortingRule } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'

const bench = useWorkbench()
const rules = ref<SortingRule[]>([])
watch(() => bench.project.value?.sorting_rules, (now) => (rules.value = (now ?? []).map((r) => ({ ...r }))), { immediate: true })
const changed = computed(() => JSON.stringify(rules.value) !== JSON.stringify(bench.project.value?.sorting_rules ?? []))
const wrong = ref('')
async function save() {
  wrong.value = ''
  const p = bench.project.value!
  const done = await bench.act(() => api.put(`/projects/${p.id}/sorting-rules`, { revision: p.revision, rules: rules.value }), { silentFailure: true })
  if (!done) wrong.value = bench.failure.value?.message ?? ''
}
</script>

<template>
  <p class="faded">A pattern is a layer or code; * stands for any letters. Rules speak when a file comes in.</p>
  <div v-for="(r, i) in rules" :key="i" class="rule">
    <input v-model="r.pattern" class="field" :aria-label="`Pattern of rule ${i + 1}`" :disabled="!bench.canEdit.value" />
    <select v-model="r.role" class="field" :aria-label="`Role of rule ${i + 1}`" :disabled="!bench.canEdit.value"><option value="spot">spot point</option><option value="breakline">breakline</option><option value="outer">outer boundary</option><option value="hole">hole boundary</option><option value="background">background</option><option value="ignore">ignore</option></select>
    <button v-if="bench.canEdit.value" class="btn quiet" :aria-label="`Delete rule ${i + 1}`" @click="rules.splice(i, 1)">×</button>
  </div>
  <div v-if="bench.canEdit.value" class="actions"><button class="btn" data-test="add-rule" @click="rules.push({ pattern: '', type: '', role: 'breakline' })">Add rule</button><button class="btn primary" :disabled="!changed" data-test="save-rules" @click="save">Save rules</button></div>
  <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
</template>

<style scoped>
.rule { display: grid; grid-template-columns: 1fr 118px auto; gap: 4px; margin: 3px 0; }
</style>
