<script setup lang="ts">
import { computed } from 'vue'
import { useWorkbench } from '@/composables/workbench'
import { useOpenFindings } from '@/composables/useOpenFindings'
import { useUi } from '@/stores/ui'
import FindingCard from './FindingCard.vue'

const bench = useWorkbench()
const ui = useUi()
const open = useOpenFindings(bench)
const waiting = computed(() => !bench.saved.value && !!bench.road.value)
const ORDER = { fault: 0, doubt: 1, note: 2 }
const findings = computed(() =>
  [...(bench.design.value?.findings ?? [])].sort(
    (a, b) => ORDER[a.severity] - ORDER[b.severity] || (a.station_from ?? 0) - (b.station_from ?? 0),
  ),
)
const departures = computed(() => bench.design.value?.departures ?? [])
const problems = computed(() => Object.values(bench.problems.value))
const standard = computed(() => bench.project.value?.standards.find((s) => s.id === bench.project.value!.settings.standard))
</script>

<template>
  <p v-if="standard" class="faded">Held against {{ standard.name }} ({{ standard.status }}) and the project's settings.</p>
  <div v-for="p in problems" :key="p.sentence" class="card fault">{{ p.sentence }}</div>
  <FindingCard v-for="f in findings" :key="f.sentence" :finding="f" @went="ui.panel = ''" />
  <template v-for="j in open.joined.value" :key="j.id">
    <h3 v-if="j.problems.length || j.findings.length">{{ j.name }}</h3>
    <div v-for="p in j.problems" :key="p" class="card fault">{{ p }}</div>
    <FindingCard v-for="f in j.findings" :key="f.sentence" :finding="f" :data-test="`junction-finding-${j.id}`" @went="ui.panel = ''" />
  </template>
  <div v-if="open.ground.value || open.unsorted.value" class="card doubt"
      data-test="ground-open">{{ [open.ground.value
        && `The ground has ${open.ground.value} open finding${open.ground.value === 1 ? '' : 's'}.`, open.unsorted.value
        && `${open.unsorted.value} of its layers ${open.unsorted.value === 1 ? 'has' : 'have'} no role.`].filter(Boolean).join(' ') }}
      <button
      class="link" @click="ui.stage = 'ground'; ui.panel = ''">Go to Ground</button></div>
  <p v-if="waiting" class="faded" role="status" data-test="findings-waiting">The checks are running …</p>
  <p v-else-if="!findings.length && !problems.length && !open.joined.value.some((j) => j.findings.length || j.problems.length)"
      class="card good">The checks report nothing for this road{{ departures.length ? ' that is not accepted' : '' }}.</p>
  <template v-if="departures.length"><h3>Accepted departures</h3><FindingCard v-for="f in departures" :key="f.key" :finding="f"
      @went="ui.panel = ''" /></template>
</template>
