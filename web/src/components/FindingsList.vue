<script setup lang="ts">
import { computed } from 'vue'
import { useWorkbench } from '@/composables/workbench'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const findings = computed(() => bench.design.value?.findings ?? [])
const problems = computed(() => Object.values(bench.problems.value))
function go(s: number) {
  bench.setMark(s)
  ui.panel = ''
}
</script>

<template>
  <div v-for="p in problems" :key="p.sentence" class="card fault">{{ p.sentence }}</div>
  <div v-for="f in findings" :key="f.sentence" class="card" :class="f.severity">{{ f.sentence }} <button v-if="f.station_from !== null" class="link" @click="go(f.station_from)">Go there</button></div>
  <p v-if="!findings.length && !problems.length" class="card good">The checks report nothing for this road.</p>
</template>
