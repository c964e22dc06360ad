<script setup lang="ts">
import { computed } from 'vue'
import { useWorkbench } from '@/composables/workbench'
import { useUi } from '@/stores/ui'
import FindingCard from './FindingCard.vue'

const bench = useWorkbench()
const ui = useUi()
const ORDER = { fault: 0, doubt: 1, note: 2 }
const findings = computed(() => [...(bench.design.value?.findings ?? [])].sort((a, b) => ORDER[a.severity] - ORDER[b.severity] || (a.station_from ?? 0) - (b.station_from ?? 0)))
const departures = computed(() => bench.design.value?.departures ?? [])
const problems = computed(() => Object.values(bench.problems.value))
const standard = computed(() => bench.project.value?.standards.find((s) => s.id === bench.project.value!.settings.standard))
</script>

<template>
  <p v-if="standard" class="faded">Held against {{ standard.name }} ({{ standard.status }}) and the project's settings.</p>
  <div v-for="p in problems" :key="p.sentence" class="card fault">{{ p.sentence }}</div>
  <FindingCard v-for="f in findings" :key="f.sentence" :finding="f" @went="ui.panel = ''" />
  <p v-if="!findings.length && !problems.length" class="card good">The checks report nothing for this road{{ departures.length ? ' that is not accepted' : '' }}.</p>
  <template v-if="departures.length"><h3>Accepted departures</h3><FindingCard v-for="f in departures" :key="f.key" :finding="f" @went="ui.panel = ''" /></template>
</template>
