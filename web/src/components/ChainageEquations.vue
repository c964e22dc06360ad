<script setup lang="ts">
/** Places where the count of chainage jumps: what is read before each, and from what it counts on. */
import { computed, ref } from 'vue'
import { useWorkbench } from '@/composables/workbench'
import { countedAt } from '@/lib/chainage'
import { formatStation } from '@/lib/format'
import { units } from '@/lib/units'
import { useUi } from '@/stores/ui'
import NumberField from './NumberField.vue'

const bench = useWorkbench()
const ui = useUi()
const rows = computed(() =>
  bench.equations.value.map(([at, jump]) => ({
    at,
    jump,
    back: countedAt(at, bench.equations.value),
    ahead: countedAt(at, bench.equations.value) + jump,
  })),
)
const wrong = ref('')
const plain = (v: number) => formatStation(v / units.value.metre, bench.style.value, 3)
async function put(next: [number, number][]) {
  wrong.value = ''
  const done = await bench.put('road', ui.roadId!, 'equations', { equations: next }, { silentFailure: true })
  if (!done) wrong.value = bench.failure.value?.message ?? ''
}
const all = (): [number, number][] => bench.equations.value.map(([a, j]) => [a, j])
const setAhead = (i: number, ahead: number) =>
  put(all().map((e, k) => (k === i ? [e[0], Math.round((ahead - rows.value[i]!.back) * 1e6) / 1e6] : e)))
</script>

<template>
  <template v-if="rows.length || bench.canEdit.value">
    <div v-for="(r, i) in rows" :key="r.at" class="equation"
        :data-test="`equation-${i + 1}`"><span>{{ plain(r.back) }} counts on from</span><NumberField compact
        :label="`Chainage ahead, equation ${i + 1}`" :model-value="r.ahead" unit="m" :decimals="3" :disabled="!bench.canEdit.value"
        :test="`equation-${i + 1}-ahead`" @change="(v) => v !== null && setAhead(i, v)" /><button v-if="bench.canEdit.value"
        class="btn quiet" :aria-label="`Delete equation ${i + 1}`" @click="put(all().filter((_, k) => k !== i))">×</button></div>
    <p v-if="wrong" class="wrong" role="alert" data-test="equation-wrong">{{ wrong }}</p>
    <button v-if="bench.canEdit.value && bench.design.value?.line" class="link" data-test="equation-add"
        @click="put([...all(), [Math.round(ui.mark * 1000) / 1000, 100]])">Chainage equation at {{ bench.station(ui.mark) }}</button>
  </template>
</template>

<style scoped>
.equation { display: grid; grid-template-columns: 1fr 92px 24px; gap: 4px; align-items: center; margin: 3px 0; }
.equation span { color: var(--faded); }
</style>
