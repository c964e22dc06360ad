<script setup lang="ts">
/**
 * Sorting rules, in order: the first whose pattern and type fit gives a layer its role. With `layers` they are tried on a file while
 * typed.
 */
import { watchDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { GroundRole, SortingRule, SurveyLayer } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'

const props = defineProps<{ layers?: SurveyLayer[]; byHand?: Record<string, GroundRole> }>()
const emit = defineEmits<{ draft: [rules: SortingRule[]] }>()
const bench = useWorkbench()
const rules = ref<SortingRule[]>([])
watch(
  () => bench.project.value?.sorting_rules,
  (now) => (rules.value = (now ?? []).map((r) => ({ ...r }))),
  { immediate: true },
)
const changed = computed(() => JSON.stringify(rules.value) !== JSON.stringify(bench.project.value?.sorting_rules ?? []))
watchDebounced(
  rules,
  (now) =>
    props.layers &&
    emit(
      'draft',
      now.map((r) => ({ ...r })),
    ),
  { deep: true, debounce: 250 },
)
const TYPES = ['point', 'CAD point', 'CAD line', 'CAD circle', 'breakline', 'contour', 'surface point', 'grid', 'ground return']
const wrong = ref('')
/** layers that are in already are sorted by the rules, too */
const again = ref(!props.layers)
async function save() {
  wrong.value = ''
  const p = bench.project.value!
  const done = await bench.put('project', p.id, 'sorting-rules', { rules: rules.value, again: again.value }, { silentFailure: true })
  if (!done) wrong.value = bench.failure.value?.message ?? ''
}
/** One rule, before all others, for each role that was set by hand. */
function keep() {
  const set = (props.layers ?? []).filter((la) => props.byHand?.[la.key] && la.code)
  const codes = set.map((la) => la.code.toLowerCase())
  rules.value = [
    ...set.map((la) => ({ pattern: la.code, type: '', role: props.byHand![la.key]! })),
    ...rules.value.filter((r) => !codes.includes(r.pattern.toLowerCase())),
  ]
}
function move(i: number, by: number) {
  rules.value.splice(i + by, 0, ...rules.value.splice(i, 1))
}
defineExpose({ keep })
</script>

<template>
  <p class="faded">A pattern is a layer or code; * stands for any letters. The first rule that fits speaks.
    Points sorted as breakline or boundary are strung into lines by their codes;
    words behind a code start (ST, BEG), end (END, EN) or close (CL, CLS) a line unless rules name others.</p>
  <div v-for="(r, i) in rules" :key="i" class="rule">
    <input v-model="r.pattern" class="field" :aria-label="`Pattern of rule ${i + 1}`" :disabled="!bench.canEdit.value"
        data-test="rule-pattern" />
    <select v-model="r.type" class="field" :aria-label="`Type of rule ${i + 1}`" :disabled="!bench.canEdit.value"><option
        value="">any type</option><option v-for="t in TYPES" :key="t" :value="t">{{ t }}</option></select>
    <select v-model="r.role" class="field" :aria-label="`Role of rule ${i + 1}`" :disabled="!bench.canEdit.value"
        data-test="rule-role"><option value="spot">spot point</option><option value="breakline">breakline</option><option
        value="outer">outer boundary</option><option value="hole">hole boundary</option><option
        value="background">background</option><option value="ignore">ignore</option><optgroup label="Word behind a code"><option
        value="line start">starts a line</option><option value="line end">ends a line</option><option
        value="line close">closes a line</option></optgroup></select>
    <template v-if="bench.canEdit.value">
      <button class="btn quiet" :disabled="i === 0" :aria-label="`Rule ${i + 1} earlier`" title="Earlier" @click="move(i, -1)">↑</button>
      <button class="btn quiet" :aria-label="`Delete rule ${i + 1}`" @click="rules.splice(i, 1)">×</button>
    </template>
  </div>
  <div v-if="bench.canEdit.value" class="actions">
    <button class="btn" data-test="add-rule" @click="rules.push({ pattern: '', type: '', role: 'breakline' })">Add rule</button>
    <button class="btn primary" :disabled="!changed && !again" data-test="save-rules" @click="save">Save rules</button>
  </div>
  <label v-if="!layers && bench.canEdit.value" class="again"><input v-model="again" type="checkbox" data-test="rules-again"
      /> sort what is in already, too</label>
  <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
</template>

<style scoped>
.rule { display: grid; grid-template-columns: 1fr 1fr auto auto; gap: 3px; margin: 3px 0 6px; }
.rule > :first-child { grid-column: 1 / -1; }
.again { display: flex; gap: 6px; align-items: center; margin-top: 4px; }
.rule .field { min-width: 0; padding: 1px 3px; min-height: 26px; }
.rule .btn { padding: 0 5px; min-height: 26px; }
</style>
