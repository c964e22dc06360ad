<script setup lang="ts">
/**
 * Look before you bring in: what a file holds, how it was read, what is wrong or doubtful, a quick plan; nothing is stored until it is
 * accepted.
 */
import { useQuery } from '@tanstack/vue-query'
import Dialog from 'primevue/dialog'
import { computed, nextTick, onMounted, ref, useTemplateRef, watch } from 'vue'
import { api, AppError } from '@/api/client'
import type {
  Acted,
  ExchangeDifference,
  ExchangeDocument,
  FilePreview,
  GroundRole,
  JobPicture,
  Layout,
  SetPlace,
  SortingRule,
  WayOut,
} from '@/api/types'
import DifferenceTold from '@/components/DifferenceTold.vue'
import LayerRoles from '@/components/LayerRoles.vue'
import NumberField from '@/components/NumberField.vue'
import SortingRules from '@/components/SortingRules.vue'
import { useWorkbench } from '@/composables/workbench'
import { useUi } from '@/stores/ui'
import { drawQuickPlan } from '@/canvas/plan/quickPlan'
import { inGroups } from '@/lib/alike'
import { formatNumber } from '@/lib/format'
import { bareLength, sayLength, units, UNITS } from '@/lib/units'
import { counted } from '@/lib/words'

/** `received`: a file on the shelf that is read again, perhaps in another way; `document`: one of the document exchange. */
const props = defineProps<{ received?: { id: number; name: string } | null; document?: ExchangeDocument | null }>()
const emit = defineEmits<{ close: [] }>()
const bench = useWorkbench()
const ui = useUi()
const name = ref('')
const upload = ref(0)
const preview = ref<FilePreview | null>(null)
const layout = ref<Layout | null>(null)
const wrong = ref('')
const busy = ref('')
const job = ref<JobPicture | null>(null)
const target = ref<number>(bench.surface.value?.id ?? 0)
const targetChosen = ref(false)
const thumb = useTemplateRef<HTMLCanvasElement>('thumb')
const WANTED = [
  ['easting', 'Easting'],
  ['northing', 'Northing'],
  ['elevation', 'Level'],
  ['code', 'Code'],
  ['attribute', 'Attribute'],
  ['name', 'Point name'],
] as const
const DELIMITERS = [
  [';', 'semicolon'],
  [',', 'comma'],
  ['\t', 'tab'],
  [' ', 'space'],
  ['|', 'bar'],
] as const
const PLACES: [SetPlace, string][] = [
  ['join', 'into the surface below'],
  ['apart', 'a surface of its own'],
  ['leave', 'leave it out'],
]
const SEVERITIES = [
  ['fault', 'Wrong'],
  ['doubt', 'Doubtful'],
  ['note', 'Told'],
] as const

/** Roles set by hand here; they win over the rules. */
const roles = ref<Record<string, GroundRole>>({})
const tolerance = ref<number | null>(null)
/** rules as they are typed here, tried on this file; null while they are the project's */
const rules = ref<SortingRule[] | null>(null)
const places = ref<Record<string, SetPlace>>({})
const moved = ref<Record<string, unknown>>({})

function form(): FormData {
  const f = new FormData()
  f.append('upload', String(upload.value))
  f.append('received', String(props.received?.id ?? 0))
  f.append('document', String(props.document?.id ?? 0))
  f.append(
    'options',
    JSON.stringify({
      ...layout.value,
      ...moved.value,
      roles: roles.value,
      sets: places.value,
      ...(rules.value ? { rules: rules.value } : {}),
      ...(tolerance.value ? { tolerance: tolerance.value } : {}),
    }),
  )
  f.append('surface_id', String(target.value))
  return f
}
const title = computed(() => {
  if (props.received) return 'Read a received file again'
  return props.document ? `Version ${props.document.version} of ${props.document.name}` : 'Bring in a file'
})
/** What a newer version of a document would change. */
const difference = useQuery({
  queryKey: computed(() => ['difference', bench.projectId, props.document?.id]),
  queryFn: () => api.get<ExchangeDifference>(`/projects/${bench.projectId}/exchange/${props.document!.id}/difference`),
  enabled: computed(() => props.document?.state === 'newer'),
})
let looks = 0
async function look(keepLayout = false) {
  if (!upload.value && !props.received && !props.document) return
  const mine = ++looks
  busy.value = 'Reading…'
  wrong.value = ''
  if (!keepLayout) layout.value = null
  try {
    const found = await done(await api.post<FilePreview & { job?: JobPicture }>(`/projects/${bench.projectId}/preview`, form()))
    if (mine !== looks) return
    preview.value = found
    const r = found.reading
    layout.value = r.columns
      ? ({ ...r, columns: { easting: -1, northing: -1, elevation: -1, code: -1, attribute: -1, name: -1, ...r.columns } } as Layout)
      : null
    if (!keepLayout && unitless.value && units.value.metre !== 1 && moved.value.factor === undefined) inUnit(units.value.metre)
    if (!targetChosen.value) target.value = found.far ? 0 : (bench.surface.value?.id ?? 0)
  } catch (error) {
    if (mine !== looks) return
    preview.value = keepLayout ? preview.value : null
    wrong.value = (error as AppError).message
  } finally {
    if (mine === looks) busy.value = ''
  }
}
/** A preview that takes long is made by the worker. */
async function done(answer: FilePreview & { job?: JobPicture }): Promise<FilePreview> {
  if (!answer.job) return answer
  const ended = await over(answer.job)
  return ended.result.preview as FilePreview
}
function tryRules(draft: SortingRule[]) {
  rules.value = draft
  void look(true)
}
const sorting = useTemplateRef<{ keep: () => void }>('sorting')
function sort(key: string, role: GroundRole) {
  roles.value = { ...roles.value, [key]: role }
  void look(true)
}
function put(i: number, place: SetPlace) {
  places.value = { ...places.value, [i]: place }
  void look(true)
}
function takeWay(way: WayOut) {
  moved.value = way.options
  void look(true)
}
/** The file says nothing of its unit: text files never do, a drawing may not. In a project in feet it is taken to be in feet. */
const unitless = computed(() => !!preview.value?.reading.columns || !!preview.value?.findings.some((f) => f.code === 'units-unsaid'))
const UNIT_WORDS = { m: 'metres', ft: 'feet', 'us-ft': 'US survey feet' }
function inUnit(factor: number) {
  moved.value = { ...moved.value, factor }
  void look(true)
}
function undoWay() {
  moved.value = {}
  void look(true)
}
const movedTold = computed(() => {
  const r = preview.value?.reading
  if (!r) return ''
  const words = [
    r.swapped && 'easting and northing changed over',
    r.factor && r.factor !== 1 && `all lengths × ${formatNumber(r.factor, 4)}`,
    r.east && `${sayLength(r.east, 0)} added to eastings`,
  ].filter(Boolean)
  return words.join(', ')
})
const layers = computed(() => preview.value?.sets.filter((s) => s.place !== 'leave').flatMap((s) => s.layers) ?? [])
const unsorted = computed(() => layers.value.filter((la) => la.role === 'unsorted').length)
async function choose(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  looks++ // what is being looked at is another file
  roles.value = {}
  places.value = {}
  moved.value = {}
  upload.value = 0
  preview.value = null
  wrong.value = ''
  targetChosen.value = false
  name.value = file.name
  busy.value = 'Sending…'
  try {
    const f = new FormData()
    f.append('file', file)
    upload.value = (await api.post<{ upload: number }>(`/projects/${bench.projectId}/uploads`, f)).upload
  } catch (error) {
    busy.value = ''
    wrong.value = (error as AppError).message
    return
  }
  await look()
}
onMounted(() => {
  const there = props.received ?? props.document
  if (!there) return
  name.value = there.name
  void look()
})
async function accept() {
  busy.value = 'Bringing in…'
  wrong.value = ''
  const taken = await bench.act(() => api.post<Acted>(`/projects/${bench.projectId}/files`, form()).then(waitFor), { silentFailure: true })
  busy.value = ''
  if (taken) {
    show(taken.surface_id)
    emit('close')
  } else wrong.value = bench.failure.value?.message ?? ''
}
/** What came in is looked at at once: its surface, and all of where it lies. */
function show(surface: number | undefined) {
  if (surface) ui.surfaceId = surface
  const extents = preview.value?.sets.filter((s) => s.place !== 'leave').map((s) => s.extent) ?? []
  const at = (k: 0 | 1 | 2 | 3, least: boolean) => Math[least ? 'min' : 'max'](...extents.map((x) => x[k]))
  const [e0, n0, e1, n1] = [at(0, true), at(1, true), at(2, false), at(3, false)]
  if (extents.length && e1 > e0 && n1 > n0) ui.goTo = { e: (e0 + e1) / 2, n: (n0 + n1) / 2, extent: [e0, n0, e1, n1] }
}
/** A large file is brought in by the worker: show how far it is until it is over. */
async function waitFor(acted: Acted): Promise<Acted> {
  if (!acted.job) return acted
  const ended = await over(acted.job)
  const { label, told, surface_id } = ended.result
  return { label: label ?? acted.label, told: told ?? [], ...(surface_id ? { surface_id } : {}) }
}
async function over(started: JobPicture): Promise<JobPicture> {
  job.value = started
  try {
    while (['waiting', 'running'].includes(job.value.state)) {
      await new Promise((r) => setTimeout(r, 250))
      job.value = await api.get<JobPicture>(`/projects/${bench.projectId}/jobs/${started.id}`)
    }
    const ended = job.value
    if (ended.state !== 'done') throw new AppError(422, ended.state, ended.message)
    return ended
  } finally {
    job.value = null
  }
}
const cancelJob = () => job.value && api.post(`/projects/${bench.projectId}/jobs/${job.value.id}/cancel`)
const cells = computed(() => (preview.value?.rows ?? []).slice(0, 8).map((r) => split(r)))
function split(row: string): string[] {
  const d = layout.value?.delimiter ?? ';'
  return d === ' ' ? row.trim().split(/\s+/) : row.split(d).map((c) => c.trim())
}
const columns = computed(() => Math.max(0, ...cells.value.map((c) => c.length)))
const roleOf = (i: number) => WANTED.find(([k]) => layout.value?.columns[k] === i)?.[1] ?? ''
const counts = computed(() =>
  SEVERITIES.map(([s, word]) => ({ s, word, n: preview.value?.findings.filter((f) => f.severity === s).length ?? 0 })).filter((c) => c.n),
)
const sorted = computed(() => SEVERITIES.flatMap(([s]) => inGroups(preview.value?.findings.filter((f) => f.severity === s) ?? [])))
const ready = computed(() => !!preview.value?.sets.some((s) => s.place !== 'leave') && !preview.value.error && !busy.value)

watch(preview, async (p) => {
  await nextTick()
  if (thumb.value) drawQuickPlan(thumb.value, p?.sets.filter((s) => s.place !== 'leave').flatMap((s) => s.plan) ?? [])
})
const sortedTold = computed(() => {
  const all = layers.value.length
  const named = all - unsorted.value
  if (!unsorted.value) return all === 1 ? 'Its layer has a role.' : `All ${all} layers have a role.`
  return `${named} of ${counted(all, 'layer')} ${named === 1 ? 'has' : 'have'} a role; the unsorted ones come in too, and wait.`
})
</script>

<template>
  <Dialog visible modal :header="title" :style="{ width: '860px' }"
      :breakpoints="{ '900px': '96vw' }" @update:visible="emit('close')">
    <label v-if="!received && !document" class="file btn">{{ name ? 'Choose another file' : 'Choose a file' }}<input type="file"
        accept=".csv,.txt,.xyz,.asc,.pts,.xml,.landxml,.dxf,.json,.geojson,.tif,.tiff,.las,.laz" class="visually-hidden"
        data-test="import-file" @change="choose" /></label>
    <span class="faded name">{{ name || 'Points as text (CSV), LandXML, DXF, GeoJSON, Esri grid, GeoTIFF, LAS or LAZ' }} {{ busy }}</span>
    <p v-if="wrong" class="wrong" role="alert" data-test="import-wrong">{{ wrong }}</p>
    <template v-if="preview">
      <label v-if="unitless" class="into">Lengths in the file are <select class="field" :value="moved.factor ?? 1" data-test="file-unit"
          @change="inUnit(Number(($event.target as HTMLSelectElement).value))"><option v-for="u in UNITS" :key="u.name"
          :value="u.metre">{{ UNIT_WORDS[u.name] }}</option></select></label>
      <div v-if="layout" class="reading">
        <label>Columns are divided by <select v-model="layout.delimiter" class="field" data-test="delimiter" @change="look(true)"><option
            v-for="[d, n] in DELIMITERS" :key="n" :value="d">{{ n }}</option></select></label>
        <label><input v-model="layout.decimal_comma" type="checkbox" @change="look(true)" /> decimal comma</label>
        <label><input v-model="layout.header" type="checkbox" @change="look(true)" /> first line is a header</label>
        <label v-for="[k, n] in WANTED" :key="k">{{ n }} <select v-model.number="layout.columns[k]" class="field"
            :data-test="`column-${k}`" @change="look(true)"><option :value="-1">none</option><option v-for="i in columns" :key="i"
            :value="i - 1">{{ layout.names[i - 1] ?? `column ${i}` }}</option></select></label>
      </div>
      <p v-if="preview.error" class="wrong" role="alert" data-test="preview-error">{{ preview.error }}</p>
      <p v-if="movedTold" class="card note" data-test="moved-told">Taken with {{ movedTold }}. <button class="link"
          @click="undoWay">Take it as it came</button></p>
      <div class="both">
        <div class="left">
          <table v-if="cells.length" class="grid" data-test="preview-rows">
            <thead><tr><th v-for="i in columns" :key="i">{{ roleOf(i - 1) || '–' }}</th></tr></thead>
            <tbody><tr v-for="(c, i) in cells" :key="i"><td v-for="j in columns" :key="j"
                :class="{ num: roleOf(j - 1) }">{{ c[j - 1] }}</td></tr></tbody>
          </table>
          <div v-for="(s, i) in preview.sets" :key="s.name" class="inventory" :class="{ left: s.place === 'leave' }" data-test="inventory">
            <b>{{ s.name }}</b>
            <select v-if="preview.sets.length > 1" class="field where" :value="s.place" :aria-label="`Where ${s.name} goes`"
                :data-test="`place-${i}`" @change="put(i, ($event.target as HTMLSelectElement).value as SetPlace)"><option
                v-for="[p, word] in PLACES" :key="p" :value="p">{{ word }}</option></select><br />
            {{ counted(s.points, 'point') }}, {{ counted(s.breaklines, 'line') }}, {{ counted(s.faces, 'face') }}<br />
            E {{ bareLength(s.extent[0], 2) }} to {{ bareLength(s.extent[2], 2) }}, N {{ bareLength(s.extent[1], 2) }} to
            {{ bareLength(s.extent[3], 2) }}<br />
            levels {{ bareLength(s.levels[0], 3) }} to {{ sayLength(s.levels[1], 3) }}
            <LayerRoles v-if="s.layers.length && s.place !== 'leave'" :layers="s.layers" @change="(key, role) => sort(key, role)" />
            <span v-if="!s.layers.length && s.codes.length > 1 " class="faded"><br
                />codes: {{ s.codes.map(([c, n]) => `${c} (${formatNumber(n, 0)})`).join(', ') }}</span>
          </div>
        </div>
        <canvas ref="thumb" width="280" height="220" aria-label="Quick plan of the file" />
      </div>
      <p v-if="counts.length" class="counts" data-test="finding-counts"><b v-for="c in counts" :key="c.s"
          :class="c.s">{{ c.word }}: {{ c.n }}</b></p>
      <template v-for="g in sorted" :key="g.id">
        <details v-if="g.all.length > 1" class="card" :class="g.first.severity"
            data-test="import-group"><summary><b>{{ g.all.length }} alike:</b>
          {{ g.first.sentence }}</summary><p v-for="(f, i) in g.all.slice(1, 200)" :key="i">{{ f.sentence }}</p></details>
        <div v-else class="card" :class="g.first.severity" data-test="import-finding">{{ g.first.sentence }} <button v-if="g.first.way"
            class="link" data-test="finding-way" @click="takeWay(g.first.way)">{{ g.first.way.label }}</button></div>
      </template>
      <div v-if="difference.data.value" class="card note" data-test="difference-told"><DifferenceTold :told="difference.data.value" /></div>
      <p v-if="layers.length" :class="{ wrong: unsorted }"
          data-test="sorted-told">{{ sortedTold }}</p>
      <details v-if="layers.length" class="rules"><summary data-test="preview-rules">Sorting rules</summary>
        <SortingRules ref="sorting" :layers="layers" :by-hand="roles" @draft="tryRules" />
        <button v-if="Object.keys(roles).length" class="link" data-test="keep-as-rules"
            @click="sorting?.keep()">Make rules of the roles set by hand</button>
      </details>
      <p v-if="preview.reference" class="card doubt" data-test="reference-told">{{ preview.reference }}</p>
      <NumberField v-if="preview.reading.tolerance" label="Thin laser points to" :model-value="tolerance ?? preview.reading.tolerance"
          :least="0.001" :greatest="10" :decimals="3" unit="m" @change="(v) => { tolerance = v; look(true) }" />
      <p v-if="document?.state === 'newer'" class="faded">It takes the place of the version before, with its edits where they still fit.</p>
      <label v-else class="into">Add to <select v-model.number="target" class="field" data-test="import-target"
          @change="targetChosen = true"><option v-for="s in bench.project.value?.surfaces" :key="s.id"
          :value="s.id">{{ s.name }}</option><option :value="0">a new surface</option></select></label>
    </template>
    <template #footer>
      <div v-if="job" class="job" data-test="job"><progress :value="job.done" :max="job.total || 4"
          /> {{ job.message || 'Waiting for the worker' }} <button class="btn" data-test="job-cancel"
          @click="cancelJob">Cancel</button></div>
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
.inventory.left { color: var(--faded); }
.where { width: 170px; min-height: 24px; padding: 1px 4px; margin-left: 8px; text-align: left; }
canvas { border: 1px solid var(--rule); border-radius: 4px; background: #fff; }
.counts { display: flex; gap: 16px; margin: 10px 0 2px; font-size: 12px; }
.counts .fault { color: var(--madder); }
.counts .doubt { color: var(--ochre-text); }
.card .link { margin-left: 6px; }
.job { display: flex; gap: 10px; align-items: center; margin-right: auto; font-size: 12px; }
.rules { margin: 6px 0; font-size: 12px; max-width: 520px; }
.rules summary { cursor: pointer; font-weight: 600; }
.into { display: flex; gap: 8px; align-items: center; margin-top: 10px; }
.into .field { width: 220px; }
</style>
