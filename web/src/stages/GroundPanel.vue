<script setup lang="ts">
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import type { Finding } from '@/api/types'
import ImportDialog from '@/components/ImportDialog.vue'
import NumberField from '@/components/NumberField.vue'
import { useWorkbench } from '@/composables/workbench'
import { formatNumber } from '@/lib/format'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const surface = bench.surface
const told = computed(() => bench.terrain.value?.header as unknown as { levels: [number, number]; plan_area: number; slope_area: number; findings: Finding[] } | undefined)
const triangles = computed(() => (bench.terrain.value?.ints.triangles?.length ?? 0) / 3)
const wrong = ref('')

async function setEdge(value: number | null) {
  wrong.value = ''
  const s = surface.value!
  const done = await bench.act(() => api.patch(`/surfaces/${s.id}`, { revision: s.revision, greatest_edge: value }), { silentFailure: true })
  if (!done) wrong.value = bench.failure.value?.message ?? ''
}
</script>

<template>
  <h2>Ground <small>stage 1</small></h2>
  <p v-if="!surface?.sources.length" class="faded">Bring in survey points (CSV) or a surface (LandXML). You see what a file holds before anything is stored.</p>
  <div class="actions"><button v-if="bench.canEdit.value" class="btn primary" data-test="import" @click="ui.tool = 'import'">Bring in a file</button></div>
  <template v-if="surface?.sources.length">
    <h3>{{ surface.name }}</h3>
    <div class="value"><span>Triangles</span><b>{{ formatNumber(triangles, 0) }}</b></div>
    <div v-if="told" class="value"><span>Levels</span><b>{{ formatNumber(told.levels[0], 2) }} to {{ formatNumber(told.levels[1], 2) }} m</b></div>
    <div v-if="told" class="value"><span>Area in plan</span><b>{{ formatNumber(told.plan_area / 10000, 2) }} ha</b></div>
    <div v-if="told" class="value"><span>Area on the slope</span><b>{{ formatNumber(told.slope_area / 10000, 2) }} ha</b></div>
    <NumberField label="Longest outer edge" :model-value="surface.greatest_edge" :decimals="1" unit="m" empty="hull" :disabled="!bench.canEdit.value" :wrong="wrong" test="greatest-edge" @change="setEdge" />
    <hr />
    <h3>Made from</h3>
    <div v-for="s in surface.sources" :key="s.id" class="source">
      <div class="value"><span>{{ s.name }}</span><b>{{ formatNumber(s.points, 0) }} points</b></div>
      <div class="faded">{{ s.breaklines ? `${s.breaklines} breaklines` : 'no breaklines' }}{{ s.faces ? `, ${formatNumber(s.faces, 0)} faces` : '' }} · levels {{ formatNumber(s.levels[0], 2) }} to {{ formatNumber(s.levels[1], 2) }}</div>
    </div>
    <template v-if="told?.findings.length">
      <hr />
      <h3>What looks doubtful</h3>
      <div v-for="f in told.findings" :key="f.sentence" class="card" :class="f.severity">{{ f.sentence }} <button v-if="f.place" class="link" @click="ui.goTo = { e: f.place[0], n: f.place[1] }">Show it</button></div>
    </template>
  </template>
  <hr />
  <h3>Received</h3>
  <p v-if="!bench.project.value?.received.length" class="faded">Files stand here as they came.</p>
  <div v-for="f in bench.project.value?.received" :key="f.id" class="value" :title="`SHA-256 ${f.sha256}`"><span>{{ f.name }}</span><b class="faded">{{ f.format }} · {{ f.at.slice(0, 10) }}</b></div>
  <ImportDialog v-if="ui.tool === 'import'" @close="ui.tool = ''" />
</template>

<style scoped>
.source { margin-bottom: 4px; font-size: 12px; }
</style>
