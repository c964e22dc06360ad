<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue'
import ExchangeList from '@/components/ExchangeList.vue'
import FoldGroup from '@/components/FoldGroup.vue'
import GroundFindings from '@/components/GroundFindings.vue'
import GroundPickCard from '@/components/GroundPickCard.vue'
import GroundRecipe from '@/components/GroundRecipe.vue'
import GroundSources from '@/components/GroundSources.vue'
import NumberField from '@/components/NumberField.vue'
import SortingRules from '@/components/SortingRules.vue'
import { useGround } from '@/composables/useGround'
import { useRefusals } from '@/composables/useRefusals'
import { useWorkbench } from '@/composables/workbench'
import { when } from '@/lib/dates'
import { formatNumber } from '@/lib/format'
import { bareLength, sayLand, sayLength, units } from '@/lib/units'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'

const ImportDialog = defineAsyncComponent(() => import('@/components/ImportDialog.vue'))
const bench = useWorkbench()
const ui = useUi()
const look = useLook()
const ground = useGround(bench)
const surface = bench.surface
const told = computed(
  () =>
    bench.terrain.value?.header as unknown as
      { levels: [number, number]; plan_area: number; slope_area: number; pieces: number; triangles: number; spacing: number } | undefined,
)
const others = computed(() => bench.project.value?.surfaces.filter((s) => s.id !== surface.value?.id && s.sources.length) ?? [])
const other = ref<number | null>(null)
const open = computed(() => ground.findings.value?.open.length ?? 0)
const OUT = [
  ['landxml', 'LandXML'],
  ['dxf', 'DXF'],
  ['grid', 'Esri grid'],
  ['geojson', 'GeoJSON contours'],
  ['glb', 'GLB'],
] as const

const { wrong, run } = useRefusals(bench, () => surface.value?.id)
const fillHoles = (area: number | null) => run('fill_area', () => ground.change({ fill_area: area }))
/** What is made from a received file. */
function usedIn(file: number): string {
  const names = bench.project.value!.surfaces.filter((s) => s.sources.some((q) => q.file_id === file)).map((s) => s.name)
  return names.length ? `in ${names.join(', ')}` : 'not in a surface'
}
const rename = (event: Event) => {
  const name = (event.target as HTMLInputElement).value.trim()
  if (name && name !== surface.value!.name) void ground.change({ name })
}
/** Done at once; what hung on it is told, and undo brings it back. */
async function remove() {
  const s = surface.value!
  if (await bench.remove('surface', s.id)) ui.surfaceId = null
}
async function merge() {
  const s = surface.value!
  if (other.value && (await bench.post('surface', s.id, 'merge', { others: [other.value] }))) other.value = null
}
</script>

<template>
  <h2>Ground <small>stage 1</small></h2>
  <p v-if="!surface?.sources.length"
      class="faded">Bring in survey points, drawings, grids, laser points or a LandXML surface. You see what a file holds before anything
      is stored.</p>
  <template v-if="ui.selection?.kind === 'ground' && surface">
    <GroundPickCard :ground="ground" :pick="ui.selection.pick" />
    <hr />
  </template>
  <div class="actions"><button v-if="bench.canEdit.value" class="btn primary" data-test="import"
      @click="ui.tool = 'import'">Bring in a file</button></div>
  <template v-if="surface?.sources.length">
    <select v-if="(bench.project.value?.surfaces.length ?? 0) > 1" class="field" :value="surface.id" aria-label="Surface"
        data-test="surface" @change="ui.surfaceId = Number(($event.target as HTMLSelectElement).value)"><option
        v-for="s in bench.project.value!.surfaces" :key="s.id"
        :value="s.id">{{ s.name }}{{ s.id === bench.road.value?.surface_id ? ' (the road stands on it)' : '' }}</option></select>
    <input class="field name" :value="surface.name" :disabled="!bench.canEdit.value" aria-label="Name of the surface"
        data-test="surface-name" @change="rename" />
    <div class="value"><span>Triangles</span><b>{{ told ? formatNumber(told.triangles, 0) : '' }}{{ told && told.pieces > 1
      ? ` in ${told.pieces} pieces` : '' }}</b></div>
    <div v-if="told" class="value"><span>Levels</span><b>{{ bareLength(told.levels[0], 2) }} to {{ sayLength(told.levels[1], 2) }}</b></div>
    <div v-if="told"
        class="value"><span>Area in plan, on the slope</span><b>{{ formatNumber(told.plan_area / units.field, 2) }}, {{
        sayLand(told.slope_area) }}</b></div>
    <p v-if="told?.spacing"
        class="faded">Drawn from afar by a level every {{ sayLength(told.spacing, 1) }}, from near by its own triangles. All results use
        its own triangles.</p>
    <FoldGroup title="Findings" :count="open" alarm :shut="!open" test="findings-summary"><GroundFindings :ground="ground" /></FoldGroup>
    <FoldGroup title="Made from"><GroundSources :ground="ground" />
      <div v-if="bench.canEdit.value && others.length" class="merge"><select v-model="other" class="field"
          aria-label="Surface to merge with" data-test="merge-with"><option :value="null">Merge with …</option><option
          v-for="s in others" :key="s.id" :value="s.id">{{ s.name }}</option></select><button class="btn" :disabled="!other"
          data-test="merge" @click="merge">Merge</button></div>
      <NumberField label="Fill holes up to" :model-value="surface.fill_area" :decimals="1" unit="m²" empty="none"
          :disabled="!bench.canEdit.value" :wrong="wrong.fill_area" test="fill-area" @change="fillHoles" />
      <button v-if="bench.canEdit.value" class="link" data-test="delete-surface" @click="remove">Delete this surface</button>
    </FoldGroup>
    <FoldGroup title="Recipe and edits" :count="surface.edits.length" shut test="recipe"><GroundRecipe :ground="ground" /></FoldGroup>
    <FoldGroup title="Export" shut><div class="actions"><a v-for="[kind, name] in OUT" :key="kind" class="btn"
        :href="`/api/surfaces/${surface.id}/out/${kind}?interval=${look.contours.interval}&rounded=${look.contours.rounded}`"
        :data-test="`out-${kind}`">{{ name }}</a></div></FoldGroup>
  </template>
  <FoldGroup title="Sorting rules" :count="bench.project.value?.sorting_rules.length" shut test="rules"><SortingRules /></FoldGroup>
  <FoldGroup title="Document exchange" note="simulated" test="exchange"><ExchangeList /></FoldGroup>
  <FoldGroup title="Received">
    <p v-if="!bench.project.value?.received.length" class="faded">Files stand here as they came.</p>
    <div v-for="f in bench.project.value?.received" :key="f.id" class="value" :title="`SHA-256 ${f.sha256}`"><span>{{ f.name }}<small
        class="faded used">{{ usedIn(f.id) }}</small></span><b class="faded">{{ f.format }} · {{ when(f.at) }}</b></div>
  </FoldGroup>
  <ImportDialog v-if="ui.tool === 'import'" @close="ui.tool = ''" />
</template>

<style scoped>
.name { font-family: var(--sign); font-weight: 600; font-size: 14px; border-color: transparent; padding: 2px 4px; margin-left: -5px; }
.name:hover, .name:focus { border-color: var(--rule); }
.used { display: block; font-size: 11px; }
.merge { display: grid; grid-template-columns: 1fr auto; gap: 6px; }
</style>
