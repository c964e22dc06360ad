<script setup lang="ts">
/** One finding: what, value against limit, where the limit is printed, and the ways out as links. */
import { computed, ref } from 'vue'
import { isDesignFinding, type DesignFinding, type Finding } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
import { useUi } from '@/stores/ui'

const props = defineProps<{ finding: Finding | DesignFinding }>()
const emit = defineEmits<{ went: [] }>()
const bench = useWorkbench()
const ui = useUi()
const f = computed(() => (isDesignFinding(props.finding) ? props.finding : null))
const why = ref(false)
const remarking = ref(false)
const remark = ref('')
const wrong = ref('')
const can = computed(() => bench.canEdit.value && !bench.trial.value)

function go() {
  bench.setMark(props.finding.station_from!)
  const about = f.value?.about
  if (about?.kind === 'pi') {
    ui.stage = 'line'
    bench.choosePi(about.index)
  } else if (about?.kind === 'pvi') {
    ui.stage = 'levels'
    const id = bench.design.value?.pvis[about.index]?.id
    if (id) ui.selection = { kind: 'pvi', id }
  }
  emit('went')
}
/** Take a value that keeps to the limit; the halves of an unequal vertical curve keep their ratio. */
async function take(way: DesignFinding['ways'][number]) {
  wrong.value = ''
  const d = bench.design.value!
  const pi = d.pis[way.index],
    pvi = d.pvis[way.index]
  const share = pvi?.length ? pvi.half_in / pvi.length : 0.5
  const done =
    way.kind === 'pi'
      ? await bench.change('pi', pi!.id!, way.values, { silentFailure: true })
      : await bench.change(
          'pvi',
          pvi!.id,
          { half_in: way.values.length! * share, half_out: way.values.length! * (1 - share) },
          { silentFailure: true },
        )
  if (!done) wrong.value = bench.failure.value?.message ?? ''
}
async function settle(text: string) {
  wrong.value = ''
  const road = bench.road.value!
  const done = await bench.post('road', road.id, 'departures', { key: f.value!.key, remark: text }, { silentFailure: true })
  if (done) remarking.value = false
  else wrong.value = bench.failure.value?.message ?? ''
}
</script>

<template>
  <div class="card" :class="f?.remark ? 'accepted' : finding.severity" data-test="finding">
    <div>{{ finding.sentence }}</div>
    <div v-if="f" class="clause">{{ f.clause }}<span v-if="f.status !== f.clause"> · {{ f.status }}</span></div>
    <div v-if="f?.remark" class="remark">Accepted by {{ f.by }}: {{ f.remark }}</div>
    <div v-if="why" class="why" data-test="finding-why">{{ f!.why }}</div>
    <div class="ways">
      <template v-if="f && can && !f.remark"><button v-for="w in f.ways" :key="w.label" class="link" data-test="finding-way"
          @click="take(w)">{{ w.label }}</button></template>
      <button v-if="f && can && !f.remark" class="link" data-test="finding-accept" @click="remarking = !remarking">Accept …</button>
      <button v-if="f?.remark && can" class="link" data-test="finding-reopen" @click="settle('')">Open again</button>
      <button v-if="f" class="link" :aria-expanded="why" @click="why = !why">Why</button>
      <button v-if="finding.station_from !== null" class="link" data-test="finding-go" @click="go">Go there</button>
    </div>
    <form v-if="remarking" class="remarking" @submit.prevent="settle(remark)">
      <input v-model="remark" class="field" maxlength="300" placeholder="Why it is accepted" aria-label="Why it is accepted"
          data-test="finding-remark" /><button class="btn primary" data-test="finding-settle">Accept</button>
    </form>
    <div v-if="wrong" class="wrong" role="alert">{{ wrong }}</div>
  </div>
</template>

<style scoped>
.card.accepted { border-color: var(--moss); background: var(--moss-wash); }
.clause { font-size: 11px; color: var(--faded); }
.why { font-size: 12px; margin-top: 3px; padding-top: 3px; border-top: 1px dotted var(--rule); }
.remark { font-size: 12px; }
.ways { display: flex; flex-wrap: wrap; gap: 2px 12px; margin-top: 2px; font-size: 12px; }
.remarking { display: grid; grid-template-columns: 1fr auto; gap: 6px; margin-top: 5px; }
</style>
