<script setup lang="ts">
/** A report: its layouts, its tables as the chosen one shows them, and the same as files. A click on a row goes to its chainage. */
import { computed, ref } from 'vue'
import type { Report, ReportColumn, ReportLayout, ReportTable } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
import { formatNumber } from '@/lib/format'

const props = defineProps<{ report: Report; address: string }>()
const bench = useWorkbench()
/** all layouts came with the report; nothing is computed anew when another is shown */
const chosen = ref(0)
const layout = computed(() => props.report.layouts[chosen.value])
const tables = computed(() => (layout.value ? [laidOut(layout.value)] : props.report.tables))
function laidOut(la: ReportLayout): ReportTable {
  const t = props.report.tables[la.table]!
  return {
    title: t.title,
    columns: la.columns.map((c) => t.columns[c]!),
    rows: la.rows.map((r) => la.columns.map((c) => t.rows[r]![c]!)),
    told: props.report.tables[0]!.told,
  }
}
const asFile = (form: string) => `${props.address}&form=${form}` + (layout.value ? `&layout=${chosen.value}` : '')
function cell(c: ReportColumn, v: string | number | null): string {
  if (v === null || v === '') return ''
  if (c.kind === 'station') return bench.station(Number(v), c.decimals)
  return c.kind === 'number' ? formatNumber(Number(v), c.decimals, c.signed) : String(v)
}
function go(t: ReportTable, row: (string | number | null)[]) {
  const i = t.columns.findIndex((c) => c.kind === 'station')
  if (i >= 0 && row[i] !== null) bench.setMark(Number(row[i]))
}
</script>

<template>
  <div class="bar">
    <div v-if="report.layouts.length" class="layouts" role="group" aria-label="Layout"><span class="faded">Layout</span><button
        v-for="(la, i) in report.layouts" :key="la.name" class="btn quiet" :class="{ on: chosen === i }" :aria-pressed="chosen === i"
        :data-test="`layout-${i}`" @click="chosen = i">{{ la.name }}</button></div>
    <span class="files"><a v-for="f in ['csv', 'docx', 'pdf']" :key="f" class="btn" :href="asFile(f)"
        :data-test="`report-${f}`">{{ f.toUpperCase() }}</a></span>
  </div>
  <div class="tables" data-test="report">
    <template v-for="t in [...tables].reverse()" :key="t.title">
      <h3 v-if="tables.length > 1">{{ t.title }}</h3>
      <p v-for="s in t.told" :key="s" class="faded">{{ s }}</p>
      <table class="grid" :aria-label="t.title">
        <thead><tr><th v-for="c in t.columns" :key="c.name"
            :class="{ num: c.kind !== 'text' }">{{ c.name }}{{ c.kind === 'number' && c.unit ? ` ${c.unit}` : '' }}</th></tr></thead>
        <tbody><tr v-for="(r, i) in t.rows" :key="i" :class="{ over: r.at(-1) === 'over' }" @click="go(t, r)"><td
            v-for="(c, k) in t.columns" :key="c.name" :class="{ num: c.kind !== 'text' }">{{ cell(c, r[k]!) }}</td></tr></tbody>
      </table>
    </template>
  </div>
</template>

<style scoped>
.bar { display: flex; gap: 8px; align-items: center; margin-bottom: 8px; font-size: 12px; }
.layouts { display: flex; gap: 4px; align-items: center; }
.files { margin-left: auto; display: flex; gap: 8px; }
.files a { text-decoration: none; color: inherit; }
.tables { max-height: 52vh; overflow: auto; }
.tables h3 { margin: 8px 0 2px; }
.tables p { margin: 2px 0 6px; font-size: 12px; }
tr.over td { color: var(--madder); font-weight: 600; }
tbody tr { cursor: pointer; }
</style>
