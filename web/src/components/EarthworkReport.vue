<script setup lang="ts">
/** End areas and volumes as a report: over the marked range, by sections of an interval of its own, between offsets, in three depths. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import type { Report, VolumeWay } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import ReportTables from '@/components/ReportTables.vue'
import { WAYS } from '@/composables/useVolumes'
import { useWorkbench } from '@/composables/workbench'
import { units } from '@/lib/units'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const look = useLook()
const inRange = ref(!!ui.range)
const interval = ref<number | null>(null)
const keys = ref(true)
const left = ref<number | null>(null)
const right = ref<number | null>(null)
const query = computed(() => {
  const q = new URLSearchParams({ way: look.volumeWay, key_chainages: String(keys.value) })
  if (inRange.value && ui.range) {
    q.set('station_from', String(ui.range[0]))
    q.set('station_to', String(ui.range[1]))
  }
  if (interval.value !== null) q.set('interval', String(interval.value))
  if (left.value !== null) q.set('left', String(left.value))
  if (right.value !== null) q.set('right', String(right.value))
  return q.toString()
})
const address = computed(() => `/roads/${ui.roadId}/reports/earthwork?${query.value}`)
const told = useQuery({
  queryKey: computed(() => ['report', address.value, bench.saved.value?.key, bench.project.value?.revision]),
  queryFn: () => api.get<Report>(address.value),
  enabled: computed(() => !!bench.saved.value?.earthwork),
  placeholderData: keepPreviousData,
  retry: false,
})
</script>

<template>
  <p v-if="!bench.saved.value?.earthwork" class="faded">Volumes are counted as soon as the road has a line, a profile, a template and
    ground.</p>
  <template v-else>
    <div class="bar">
      <label v-if="ui.range" class="tick"><input v-model="inRange" type="checkbox" data-test="report-range" /> marked range,
        {{ bench.station(ui.range[0]) }} to {{ bench.station(ui.range[1]) }}</label>
      <span v-else class="faded">whole road; Shift-drag on the route bar marks a range</span>
      <label class="way">Way <select v-model="look.volumeWay" class="field" data-test="report-way"><option v-for="[w, name] in WAYS"
          :key="w" :value="(w as VolumeWay)">{{ name.toLowerCase() }}</option></select></label>
    </div>
    <div class="bar">
      <span class="faded">a section every</span><NumberField compact label="A section every" unit="m" :decimals="2" :model-value="interval"
          empty="as the road" test="report-interval" @change="(v) => (interval = v)" /><span class="faded">{{ units.length }}</span>
      <label class="tick"><input v-model="keys" type="checkbox" :disabled="interval === null" data-test="report-keys" /> and at tangent
        points and grade changes</label>
      <span class="faded">from offset</span><NumberField compact label="From offset" unit="m" :decimals="2" :model-value="left"
          empty="outermost" test="report-left" @change="(v) => (left = v)" /><span class="faded">to</span><NumberField compact
          label="To offset" unit="m" :decimals="2" :model-value="right" empty="outermost" test="report-right"
          @change="(v) => (right = v)" /><span class="faded">{{ units.length }}, + right</span>
    </div>
    <p v-if="told.isError.value" class="wrong" role="alert" data-test="report-wrong">{{ told.error.value?.message }}</p>
    <p v-else-if="told.isFetching.value && !told.data.value" class="faded" role="status">Counting …</p>
    <ReportTables v-if="told.data.value" :report="told.data.value" :address="`/api${address}`" />
  </template>
</template>

<style scoped>
.bar { display: flex; flex-wrap: wrap; gap: 8px; align-items: center; margin-bottom: 8px; font-size: 12px; }
.bar :deep(.number) { width: 96px; }
.bar .field { min-height: 26px; padding: 1px 4px; }
.tick { display: flex; gap: 5px; align-items: center; }
.way { margin-left: auto; display: flex; gap: 6px; align-items: center; color: var(--faded); }
</style>
