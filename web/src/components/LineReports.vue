<script setup lang="ts">
/** Reports on the active road's line, for the whole of it or the marked range; the same rows as CSV. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import type { Report } from '@/api/types'
import MeasuredChoice from '@/components/MeasuredChoice.vue'
import NumberField from '@/components/NumberField.vue'
import ReportTables from '@/components/ReportTables.vue'
import type { Measured } from '@/composables/measured'
import { units } from '@/lib/units'
import { useWorkbench } from '@/composables/workbench'
import { useUi } from '@/stores/ui'

const KINDS = [
  ['elements', 'Elements'],
  ['tangent-points', 'Tangent points'],
  ['coordinates', 'Coordinates'],
  ['deviation', 'Deviation'],
  ['crossings', 'Crossings'],
] as const
const bench = useWorkbench()
const ui = useUi()
const kind = ref<(typeof KINDS)[number][0]>('elements')
const interval = ref(20)
const each = ref<'interval' | 'point'>('interval')
const offset = ref(0)
const limit = ref<number | null>(0.1)
const inRange = ref(!!ui.range)
const chosen = ref<Measured | null>(null)
const query = computed(() => {
  const q = new URLSearchParams()
  if (inRange.value && ui.range) {
    q.set('start', String(ui.range[0]))
    q.set('end', String(ui.range[1]))
  }
  if (kind.value === 'coordinates') {
    q.set('interval', String(interval.value))
    if (offset.value) q.set('offset', String(offset.value))
  }
  if (kind.value === 'deviation') {
    q.set('survey', String(chosen.value?.survey ?? 0))
    if (chosen.value?.layer) q.set('layer', chosen.value.layer)
    if (chosen.value?.line !== null && chosen.value) q.set('measured_line', String(chosen.value.line))
    q.set('each', each.value)
    if (each.value === 'interval') q.set('interval', String(interval.value))
    if (limit.value !== null) q.set('limit', String(limit.value))
  }
  return q.toString()
})
const address = computed(() => `/roads/${ui.roadId}/reports/${kind.value}`)
const ready = computed(() => ui.roadId !== null && !!bench.saved.value?.line && (kind.value !== 'deviation' || !!chosen.value))
const told = useQuery({
  queryKey: computed(() => ['report', address.value, query.value, bench.saved.value?.key, bench.project.value?.revision]),
  queryFn: () => api.get<Report>(`${address.value}?${query.value}`),
  enabled: ready,
  retry: false,
})
const report = computed(() => (ready.value ? (told.data.value ?? null) : null))
/** Deviations as a strip: chainage across, offset up; the limits as lines. */
const STRIP = { width: 940, height: 110, left: 46 }
const strip = computed(() => {
  const t = report.value?.tables[0]
  if (kind.value !== 'deviation' || !t?.rows.length) return null
  const points = t.rows.map((r) => [Number(r[0]), Number(r[3])] as const)
  const most = Math.max(...points.map(([, d]) => Math.abs(d)), limit.value ?? 0, 0.01) * 1.1
  const [a, b] = [points[0]![0], points.at(-1)![0]]
  const x = (s: number) => STRIP.left + ((s - a) / Math.max(b - a, 1)) * (STRIP.width - STRIP.left - 8)
  const y = (d: number) => STRIP.height / 2 + (d / most) * (STRIP.height / 2 - 8)
  return {
    bars: points.map(([s, d]) => ({ x: x(s), y: y(d), zero: y(0), over: limit.value !== null && Math.abs(d) > limit.value, s, d })),
    limits: limit.value === null ? [] : [y(limit.value), y(-limit.value)],
    zero: y(0),
    most,
  }
})
</script>

<template>
  <div class="bar">
    <div class="kinds" role="tablist"><button v-for="[k, name] in KINDS" :key="k" class="btn quiet" :class="{ on: kind === k }" role="tab"
        :aria-selected="kind === k" :data-test="`report-${k}`" @click="kind = k">{{ name }}</button></div>
    <label v-if="ui.range" class="range"><input v-model="inRange" type="checkbox" data-test="report-range" /> marked range only</label>
    <template v-if="kind === 'deviation'">
      <MeasuredChoice v-model="chosen" label="Measured points or line" empty="Measured points or line …" test="report-measured" />
      <select v-model="each" class="field" aria-label="Where it is measured" data-test="report-each"><option
          value="interval">every</option><option value="point">at each measured point</option></select>
    </template>
    <template v-if="kind === 'coordinates' || (kind === 'deviation' && each === 'interval')"><NumberField compact label="Interval" unit="m"
        :decimals="2" :model-value="interval" test="report-interval" @change="(v) => v && (interval = v)" /><span
        class="faded">{{ units.length }}</span></template>
    <template v-if="kind === 'coordinates'"><span class="faded">offset, + right</span><NumberField compact label="Offset" unit="m"
        :decimals="3" :model-value="offset" @change="(v) => (offset = v ?? 0)" /><span class="faded">{{ units.length }}</span></template>
    <template v-if="kind === 'deviation'"><span class="faded">limit</span><NumberField compact label="Limit" unit="m" :decimals="3"
        :model-value="limit" empty="no limit" @change="(v) => (limit = v)" /><span class="faded">{{ units.length }}</span></template>
  </div>
  <p v-if="!bench.saved.value?.line" class="faded">The road has no line yet.</p>
  <p v-else-if="kind === 'deviation' && !chosen"
      class="faded">Choose what was measured along the line. Offsets are + to the right of the line.</p>
  <p v-if="told.isError.value && ready" class="wrong" role="alert">{{ told.error.value?.message }}</p>
  <svg v-if="strip" :viewBox="`0 0 ${STRIP.width} ${STRIP.height}`" class="strip" role="img" aria-label="Deviation along the line">
    <path v-for="l in strip.limits" :key="l" :d="`M${STRIP.left} ${l}H${STRIP.width}`" class="limit" /><path
        :d="`M${STRIP.left} ${strip.zero}H${STRIP.width}`" class="zero" />
    <path v-for="b in strip.bars" :key="b.s" :d="`M${b.x} ${b.zero}V${b.y}`" :class="b.over ? 'over' : 'bar-line'" />
    <text x="2" y="14">left</text><text x="2" :y="STRIP.height - 4">right</text>
  </svg>
  <ReportTables v-if="report" :key="kind" :report="report" :address="`/api${address}?${query}`" />
</template>

<style scoped>
.bar { display: flex; flex-wrap: wrap; gap: 8px; align-items: center; margin-bottom: 8px; font-size: 12px; }
.bar :deep(.number) { width: 84px; }
.kinds { display: flex; }
.range { display: flex; gap: 5px; align-items: center; }
.bar .field { min-height: 26px; padding: 1px 4px; max-width: 260px; }
.bar .field { min-height: 26px; padding: 1px 4px; max-width: 260px; }
.files { margin-left: auto; display: flex; gap: 8px; }
.files a { text-decoration: none; color: inherit; }
.strip { width: 100%; background: #fff; border: 1px solid var(--rule); border-radius: 4px; }
.strip text { font-size: 11px; fill: var(--faded); }
.zero { stroke: var(--ink); }
.limit { stroke: var(--madder); stroke-dasharray: 5 3; }
.bar-line { stroke: var(--petrol); stroke-width: 3; }
.over { stroke: var(--madder); stroke-width: 3; }
</style>
