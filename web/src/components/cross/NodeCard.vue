<script setup lang="ts">
/** A node of the section that was picked: where it lies and why, its values to be changed in place, for the template or over a range. */
import { computed, ref, shallowRef, watch } from 'vue'
import { api } from '@/api/client'
import type { Acted, NodeReason } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import { newest } from '@/composables/newest'
import { useAlong } from '@/composables/useAlong'
import { useWorkbench } from '@/composables/workbench'
import { decimalsOf, fieldOf, sayParameter, unitOf } from '@/lib/parameter'
import { sayLength } from '@/lib/units'
import { useUi } from '@/stores/ui'

const props = defineProps<{ side: 'left' | 'right'; node: string }>()
const emit = defineEmits<{ close: [] }>()
const bench = useWorkbench()
const ui = useUi()
const told = shallowRef<NodeReason | null>(null)
const problem = ref('')
const asked = newest<{ path: string }, NodeReason>(
  (a, signal) => api.get<NodeReason>(a.path, signal),
  (got) => {
    told.value = got
    problem.value = ''
  },
  (error) => {
    told.value = null
    problem.value = (error as Error).message
  },
)
watch(
  () => [ui.roadId, bench.section.value?.station, bench.saved.value?.key, bench.trial.value !== null, props.side, props.node] as const,
  ([road, station, key, trying]) => {
    if (road === null || station === undefined || !key || trying) return
    const query = new URLSearchParams({ station: `${station}`, side: props.side, node: props.node })
    asked.ask({ path: `/roads/${road}/section/reason?${query}` })
  },
  { immediate: true },
)
type Value = NodeReason['values'][number]
const ORIGINS = { turned: 'turned by the road’s crossfall', adjusted: 'adjusted', blended: 'blended', template: '', usual: '' }
const from = (v: Value) =>
  v.row_range ? `adjusted ${bench.station(v.row_range[0], 0)} – ${bench.station(v.row_range[1], 0)}` : ORIGINS[v.origin]

/** a value that was typed, until it is said where it shall hold */
const typed = ref<{ value: Value; to: number | string } | null>(null)
const shown = (v: Value) => (typed.value?.value.name === v.name ? typed.value.to : v.value)
const rule = computed(() => told.value?.rule.replace(/^./, (c) => c.toUpperCase()) ?? '')
const wrong = ref('')
watch(
  () => [props.side, props.node],
  () => (typed.value = null),
)
const range = useAlong(bench).usualRange
const template = computed(() => bench.project.value?.templates.find((t) => t.id === told.value?.template_id))
async function finish(done: Promise<unknown>) {
  wrong.value = ''
  if (await done) typed.value = null
  else wrong.value = bench.failure.value?.message ?? ''
}
const silent = { silentFailure: true }
function everywhere() {
  const t = typed.value!
  const values = { [t.value.name]: t.to }
  void finish(bench.change('template', template.value!.id, { side: sides.value, part: told.value!.part, values }, silent))
}
/** Both sides change together while they hold the same. */
const sides = computed<'left' | 'right' | 'both'>(() => {
  const rows = (side: 'left' | 'right') => JSON.stringify(template.value?.[side].find((p) => p.id === told.value?.part))
  return rows('left') === rows('right') ? 'both' : props.side
})
function overRange() {
  const t = typed.value!
  if (t.value.row !== null) return void finish(bench.change('variation', t.value.row, { value: t.to }, silent))
  const body = {
    kind: 'adjustment', side: props.side, part: told.value!.part, parameter: t.value.name, form: 'constant', value: t.to,
    station_from: range.value[0], station_to: range.value[1],
  } // prettier-ignore
  void finish(bench.act(() => api.post<Acted>(`/roads/${ui.roadId}/variations`, body), silent))
}
</script>

<template>
  <aside class="node-card" data-test="node-card" @keydown.esc.stop="emit('close')">
    <header><b>{{ told?.label ?? node.split('.')[1] }}</b><small v-if="told"> {{ told.part_label.toLowerCase() }}, {{ side }}</small>
      <button class="btn quiet" aria-label="Close" data-test="node-close" @click="emit('close')">×</button></header>
    <p v-if="problem" class="faded">{{ problem }}</p>
    <template v-if="told">
      <p class="place" data-test="node-place">{{ sayLength(told.offset, 3, true) }} from the line, level {{ sayLength(told.level, 3) }}</p>
      <p data-test="node-rule">{{ rule }}<template v-if="told.case">, in the case {{ told.case }}</template>.<template
          v-if="told.led"> A line leads it here.</template></p>
      <div v-for="v in told.values" :key="v.name" class="value-row">
        <div v-if="v.kind === 'choice'" class="ask"><label>{{ v.label }}</label><select class="field" :value="shown(v)"
            :disabled="!bench.canEdit.value" :aria-label="v.label" :data-test="`node-value-${v.name}`"
            @change="typed = { value: v, to: ($event.target as HTMLSelectElement).value }"><option v-for="c in v.choices"
            :key="c">{{ c }}</option></select></div>
        <NumberField v-else :label="v.label" :kind="fieldOf(v.kind)" :unit="unitOf(v.kind)" :decimals="decimalsOf(v.kind)"
            :model-value="shown(v) as number" :disabled="!bench.canEdit.value || v.origin === 'turned'"
            :test="`node-value-${v.name}`"
            @change="$event !== null && (typed = { value: v, to: $event })" />
        <small v-if="from(v)" class="faded">{{ from(v) }}</small>
      </div>
      <div v-if="typed" class="where" data-test="node-where">{{ typed.value.label }} {{ sayParameter(typed.value.kind, typed.to) }}:
        <button v-if="template" class="btn" data-test="node-everywhere" @click="everywhere">in {{ template.name }}</button>
        <button class="btn" data-test="node-range" @click="overRange">{{ typed.value.row_range && typed.value.row !== null ?
          `where it is adjusted` : `only ${bench.station(range[0], 0)} – ${bench.station(range[1], 0)}` }}</button>
        <button class="btn quiet" @click="typed = null">no</button></div>
      <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
    </template>
  </aside>
</template>

<style scoped>
.node-card { border-bottom: 1px solid var(--rule); margin-bottom: 8px; padding-bottom: 6px; }
header { display: flex; align-items: baseline; gap: 4px; font-family: var(--sign); font-size: 15px; }
header small { color: var(--faded); flex: 1; }
header .btn { padding: 0 6px; min-height: 22px; }
p { margin: 3px 0; }
.place { color: var(--faded); }
.value-row small { display: block; margin-top: -2px; }
.where {
  display: flex; flex-wrap: wrap; gap: 4px; align-items: center; background: var(--petrol-wash); padding: 4px 6px; border-radius: 4px;
}
.where .btn { padding: 0 6px; min-height: 24px; }
</style>
