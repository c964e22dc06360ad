<script setup lang="ts">
/** Look before you bring in: what a file holds, how it was read, a quick plan; nothing is stored until it is accepted. */
import Dialog from 'primevue/dialog'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { api, AppError } from '@/api/client'
import type { Acted, FilePreview, GroundRole, JobPicture, Layout, SortingRule } from '@/api/types'
import LayerRoles from '@/components/LayerRoles.vue'
import NumberField from '@/components/NumberField.vue'
import SortingRules from '@/components/SortingRules.vue'
import { useWorkbench } from '@/composables/workbench'
import { formatNumber } from '@/lib/format'

const emit = defineEmits<{ close: [] }>()
const bench = useWorkbench()
const file = ref<File | null>(null)
const preview = ref<FilePreview | null>(null)
const layout = ref<Layout | null>(null)
const wrong = ref('')
const busy = ref('')
const job = ref<JobPicture | null>(null)
const target = ref<number>(bench.surface.value?.id ?? 0)
const thumb = useTemplateRef<HTMLCanvasElement>('thumb')
const WANTED = [['easting', 'Easting'], ['northing', 'Northing'], ['elevation', 'Level'], ['code', 'Code'], ['attribute', 'Attribute'], ['name', 'Point name']] as const
const DELIMITERS = [[';', 'semicolon'], [',', 'comma'], ['\t', 'tab'], [' ', 'space'], ['|', 'bar']] as const

function form(): FormData {
  const f = new FormData()
  f.append('file', file.value!)
  f.append('options', JSON.stringify({ ...layout.value, roles: roles.value, ...(rules.value ? { rules: rules.value } : {}), ...(tolerance.value ? { tolerance: tolerance.value } : {}) }))
  f.append('surface_id', String(target.value))
  return f
}
async function look(keepLayout = false) {
  if (!file.value) return
  busy.value = 'Reading…'
  wrong.value = ''
  if (!keepLayout) layout.value = null
  try {
    preview.value = await api.post<FilePreview>(`/projects/${bench.projectId}/preview`, form())
    const r = preview.value.reading
    layout.value = r.columns ? ({ ...r, columns: { easting: -1, northing: -1, elevation: -1, code: -1, attribute: -1, name: -1, ...r.columns } } as Layout) : null
  } catch (error) {
    preview.value = keepLayout ? preview.value : null
    wrong.value = (error as AppError).message
  } finally {
    busy.value = ''
  }
}
/** Roles set by hand here; they win over the rules. */
const roles = ref<Record<string, GroundRole>>({})
const tolerance = ref<number | null>(null)
/** rules as they are typed here, tried on this file; null while they are the project's */
const rules = ref<SortingRule[] | null>(null)
function tryRules(draft: SortingRule[]) {
  rules.value = draft
  void look(true)
}
const sorting = useTemplateRef<{ keep: () => void }>('sorting')
function sort(key: string, role: GroundRole) {
  roles.value = { ...roles.value, [key]: role }
  void look(true)
}
const layers = computed(() => preview.value?.sets.flatMap((s) => s.layers) ?? [])
const unsorted = computed(() => layers.value.filter((la) => la.role === 'unsorted').length)
function choose(event: Event) {
  roles.value = {}
  file.value = (event.target as HTMLInputElement).files?.[0] ?? null
  void look()
}
async function accept() {
  busy.value = 'Bringing in…'
  wrong.value = ''
  const done = await bench.act(() => api.post<Acted>(`/projects/${bench.projectId}/files`, form()).then(waitFor), { silentFailure: true })
  busy.value = ''
  job.value = null
  if (done) emit('close')
  else wrong.value = bench.failure.value?.message ?? ''
}
/** A large file is brought in by the worker: show how far it is until it is over. */
async function waitFor(acted: Acted): Promise<Acted> {
  job.value = acted.job ?? null
  while (job.value && ['waiting', 'running'].includes(job.value.state)) {
    await new Promise((r) => setTimeout(r, 400))
    job.value = await api.get<JobPicture>(`/projects/${bench.projectId}/jobs/${job.value.id}`)
  }
  if (!job.value) return acted
  if (job.value.state !== 'done') throw new AppError(422, job.value.state, job.value.message)
  return { label: job.value.result.label ?? acted.label, told: job.value.result.told ?? [] }
}
const cancelJob = () => job.value && api.post(`/projects/${bench.projectId}/jobs/${job.value.id}/cancel`)
const cells = computed(() => (preview.value?.rows ?? []).slice(0, 8).map((r) => split(r)))
function split(row: string): string[] {
  const d = layout.value?.delimiter ?? ';'
  return d === ' ' ? row.trim().split(/\s+/) : row.split(d).map((c) => c.trim())
}
const columns = computed(() => Math.max(0, ...cells.value.map((c) => c.length)))
const roleOf = (i: number) => WANTED.find(([k]) => layout.value?.columns[k] === i)?.[1] ?? ''
const ready = computed(() => !!preview.value?.sets.length && !preview.value.error && !busy.value)

watch(preview, async (p) => {
  await nextTick()
  const c = thumb.value
  const points = p?.sets.flatMap((s) => s.plan) ?? []
  if (!c || !points.length) return
  const pen = c.getContext('2d')!
  pen.clearRect(0, 0, c.width, c.height)
  // robust limits, so that one bad point neither hides the rest nor itself
  const sorted = (i: number) => points.map((q) => q[i]!).sort((a, b) => a - b)
  const at = (list: number[], share: number) => list[Math.floor(share * (list.length - 1))]!
  const [es, ns, zs] = [sorted(0), sorted(1), sorted(2)]
  const [e0, e1, n0, n1] = [at(es, 0.005), at(es, 0.995), at(ns, 0.005), at(ns, 0.995)]
  const scale = Math.min((c.width - 20) / Math.max(e1 - e0, 1), (c.height - 20) / Math.max(n1 - n0, 1))
  for (const [e, n, z] of points) {
    const share = (z - at(zs, 0.02)) / Math.max(at(zs, 0.98) - at(zs, 0.02), 0.01)
    pen.fillStyle = share < -0.5 || share > 1.5 ? '#a8322a' : ['#7f9a63', '#a3a972', '#c0a86f', '#b98d56', '#96693c'][Math.min(Math.max(Math.floor(share * 5), 0), 4)]!
    pen.fillRect(c.width / 2 + (e - (e0 + e1) / 2) * scale - 1, c.height / 2 - (n - (n0 + n1) / 2) * scale - 1, 2, 2)
  }
})
</script>

<template>
  <Dialog visible modal header="Bring in a file" :style="{ width: '860px' }" :breakpoints="{ '900px': '96vw' }" @update:visible="emit('close')">
    <label class="file btn">{{ file ? 'Choose another file' : 'Choose a file' }}<input type="file" accept=".csv,.txt,.xyz,.asc,.pts,.xml,.landxml,.dxf,.tif,.tiff,.las,.laz" class="visually-hidden" data-test="import-file" @change="choose" /></label>
    <span class="faded name">{{ file?.name ?? 'Points as text (CSV), LandXML, DXF, Esri grid, GeoTIFF, LAS or LAZ' }} {{ busy }}</span>
    <p v-if="wrong" class="wrong" role="alert" data-test="import-wrong">{{ wrong }}</p>
    <template v-if="preview">
      <div v-if="layout" class="reading">
        <label>Columns are divided by <select v-model="layout.delimiter" class="field" data-test="delimiter" @change="look(true)"><option v-for="[d, n] in DELIMITERS" :key="n" :value="d">{{ n }}</option></select></label>
        <label><input v-model="layout.decimal_comma" type="checkbox" @change="look(true)" /> decimal comma</label>
        <label><input v-model="layout.header" type="checkbox" @change="look(true)" /> first line is a header</label>
        <label v-for="[k, n] in WANTED" :key="k">{{ n }} <select v-model.number="layout.columns[k]" class="field" :data-test="`column-${k}`" @change="look(true)"><option :value="-1">none</option><option v-for="i in columns" :key="i" :value="i - 1">{{ layout.names[i - 1] ?? `column ${i}` }}</option></select></label>
      </div>
      <p v-if="preview.error" class="wrong" role="alert" data-test="preview-error">{{ preview.error }}</p>
      <div class="both">
        <div class="left">
          <table v-if="cells.length" class="grid" data-test="preview-rows">
            <thead><tr><th v-for="i in columns" :key="i">{{ roleOf(i - 1) || '–' }}</th></tr></thead>
            <tbody><tr v-for="(c, i) in cells" :key="i"><td v-for="j in columns" :key="j" :class="{ num: roleOf(j - 1) }">{{ c[j - 1] }}</td></tr></tbody>
          </table>
          <div v-for="s in preview.sets" :key="s.name" class="inventory" data-test="inventory">
            <b>{{ s.name }}</b>: {{ formatNumber(s.points, 0) }} points, {{ s.breaklines }} lines, {{ formatNumber(s.faces, 0) }} faces<br />
            E {{ formatNumber(s.extent[0], 2) }} to {{ formatNumber(s.extent[2], 2) }}, N {{ formatNumber(s.extent[1], 2) }} to {{ formatNumber(s.extent[3], 2) }}<br />
            levels {{ formatNumber(s.levels[0], 3) }} to {{ formatNumber(s.levels[1], 3) }} m
            <LayerRoles v-if="s.layers.length" :layers="s.layers" @change="(key, role) => sort(key, role)" />
            <span v-if="!s.layers.length && s.codes.length > 1 " class="faded"><br />codes: {{ s.codes.map(([c, n]) => `${c} (${formatNumber(n, 0)})`).join(', ') }}</span>
          </div>
        </div>
        <canvas ref="thumb" width="280" height="220" aria-label="Quick plan of the file" />
      </div>
      <div v-for="f in preview.findings" :key="f.sentence" class="card" :class="f.severity" data-test="import-finding">{{ f.sentence }}</div>
      <p v-if="layers.length" :class="{ wrong: unsorted }" data-test="sorted-told">{{ unsorted ? `${layers.length - unsorted} of ${layers.length} layers have a role; the unsorted ones come in too, and wait.` : `All ${layers.length} layers have a role.` }}</p>
      <details v-if="layers.length" class="rules"><summary data-test="preview-rules">Sorting rules</summary>
        <SortingRules ref="sorting" :layers="layers" :by-hand="roles" @draft="tryRules" />
        <button v-if="Object.keys(roles).length" class="link" data-test="keep-as-rules" @click="sorting?.keep()">Make rules of the roles set by hand</button>
      </details>
      <p v-if="preview.reference" class="card doubt" data-test="reference-told">{{ preview.reference }}</p>
      <NumberField v-if="preview.reading.tolerance" label="Thin laser points to" :model-value="tolerance ?? preview.reading.tolerance" :decimals="3" unit="m" @change="(v) => { tolerance = v; look(true) }" />
      <label class="into">Add to <select v-model.number="target" class="field"><option v-for="s in bench.project.value?.surfaces" :key="s.id" :value="s.id">{{ s.name }}</option><option :value="0">a new surface</option></select></label>
    </template>
    <template #footer>
      <div v-if="job" class="job" data-test="job"><progress :value="job.done" :max="job.total || 4" /> {{ job.message || 'Waiting for the worker' }} <button class="btn" data-test="job-cancel" @click="cancelJob">Cancel</button></div>
      <button v-if="!job" class="btn" @click="emit('close')">Go back, store nothing</button>
      <button class="btn primary" :disabled="!ready" data-test="import-accept" @click="accept">Bring in</button>
    </template>
  </Dialog>
</template>

<style scoped>
.file:focus-within { outline: 2px solid var(--petrol); }
.name { margin-left: 10px; }
.reading { display: flex; flex-wrap: wrap; gap: 6px 14px; margin: 10px 0; font-size: 12px; }
.reading label { display: flex; align-items: center; gap: 5px; }
.reading .field { width: auto; min-height: 24px; padding: 1px 4px; }
.both { display: grid; grid-template-columns: 1fr 280px; gap: 12px; align-items: start; }
.left { overflow-x: auto; min-width: 0; }
.inventory { margin-top: 8px; font-size: 12px; }
canvas { border: 1px solid var(--rule); border-radius: 4px; background: #fff; }
.job { display: flex; gap: 10px; align-items: center; margin-right: auto; font-size: 12px; }
.rules { margin: 6px 0; font-size: 12px; max-width: 520px; }
.rules summary { cursor: pointer; font-weight: 600; }
.into { display: flex; gap: 8px; align-items: center; margin-top: 10px; }
.into .field { width: 220px; }
</style>
