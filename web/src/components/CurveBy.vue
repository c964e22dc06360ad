<script setup lang="ts">
/** The radius of the chosen PI by something else that is known of its curve. */
import { computed, ref, watch } from 'vue'
import type { PIRow } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
import { useUi } from '@/stores/ui'
import NumberField from './NumberField.vue'

const props = defineProps<{ pi: PIRow }>()
const bench = useWorkbench()
const ui = useUi()
const WAYS = [
  ['tangent', 'tangent length', 'm'],
  ['external', 'distance from the PI', 'm'],
  ['degree', 'degree of curve (100 ft)', '°'],
  ['through', 'a place it passes', ''],
  ['largest', 'the largest that fits', ''],
] as const
const by = ref<(typeof WAYS)[number][0] | ''>('')
const wrong = ref('')
const unit = computed(() => WAYS.find(([k]) => k === by.value)?.[2] ?? '')
async function set(more: { value?: number; place?: [number, number] } = {}) {
  wrong.value = ''
  const done = await bench.post('pi', props.pi.id!, 'curve', { by: by.value, ...more }, { silentFailure: true })
  if (done) by.value = ''
  else wrong.value = bench.failure.value?.message ?? ''
}
watch(by, (now) => {
  wrong.value = ''
  ui.tool = now === 'through' ? 'curve-through' : ''
  if (now === 'largest') void set()
})
/** A place clicked on the plan while one is asked for. */
watch(
  () => ui.clicked,
  (at) => at && by.value === 'through' && void set({ place: [at.e, at.n] }),
)
watch(
  () => props.pi.id,
  () => (by.value = ''),
)
</script>

<template>
  <div class="by"><label for="curve-by">Radius by</label>
    <select id="curve-by" v-model="by" class="field" data-test="curve-by"><option value="">typed radius</option><option
        v-for="[k, name] in WAYS" :key="k" :value="k">{{ name }}</option></select></div>
  <NumberField v-if="unit" :label="WAYS.find(([k]) => k === by)![1]" :model-value="null" :decimals="3" :unit="unit" test="curve-by-value"
      @change="(v) => v && set({ value: v })" />
  <p v-if="by === 'through'" class="faded">Click the place on the plan that the curve should pass through. Esc ends.</p>
  <p v-if="wrong" class="wrong" role="alert" data-test="curve-by-wrong">{{ wrong }}</p>
</template>

<style scoped>
.by { display: grid; grid-template-columns: 1fr 146px; align-items: center; margin: 3px 0; }
.by label { color: var(--faded); }
.by .field { min-height: 28px; padding: 1px 4px; }
</style>
