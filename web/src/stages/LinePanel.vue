<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { isDesignFinding } from '@/api/types'
import AnnotationForm from '@/components/AnnotationForm.vue'
import BendCrossfall from '@/components/BendCrossfall.vue'
import ChainageEquations from '@/components/ChainageEquations.vue'
import CurveBy from '@/components/CurveBy.vue'
import DesignSpeeds from '@/components/DesignSpeeds.vue'
import LineActions from '@/components/LineActions.vue'
import LineFitPanel from '@/components/LineFitPanel.vue'
import HoldLine from '@/components/HoldLine.vue'
import FindingCard from '@/components/FindingCard.vue'
import NumberField from '@/components/NumberField.vue'
import ProblemCards from '@/components/ProblemCards.vue'
import { useRefusals } from '@/composables/useRefusals'
import { useWorkbench } from '@/composables/workbench'
import { sayLength } from '@/lib/units'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const index = computed(() => (ui.selection?.kind === 'pi' ? ui.selection.index : null))
const pi = computed(() => (index.value === null ? null : (bench.design.value?.pis[index.value] ?? null)))
const isEnd = computed(() => index.value === 0 || index.value === (bench.design.value?.pis.length ?? 0) - 1)
const fixed = computed(() => !bench.canEdit.value || !pi.value?.id || pi.value.held)
const line = computed(() => bench.design.value?.line)
const sharpest = computed(() => {
  const radii = (bench.design.value?.pis ?? [])
    .slice(1, -1)
    .map((p) => p.radius)
    .filter((r) => r > 0)
  return radii.length ? Math.min(...radii) : null
})
const findings = computed(() =>
  [...(bench.design.value?.findings ?? []), ...(bench.design.value?.departures ?? [])]
    .filter(isDesignFinding)
    .filter((f) => f.about.kind === 'pi'),
)
const { wrong, run } = useRefusals(bench, () => pi.value?.id)
async function set(field: string, value: number | null) {
  const p = pi.value!
  await run(field, () => bench.change('pi', p.id!, { [field]: value ?? 0 }, { silentFailure: true }))
}
async function setRoad(field: string, value: unknown) {
  await bench.change('road', ui.roadId!, { [field]: value })
}
async function remove() {
  const p = pi.value!
  ui.selection = null
  await bench.remove('pi', p.id!)
}
const tying = ref(false)
watch(index, () => (tying.value = false))
/** An end of a line laid out by PIs that is not tied yet. */
const tieable = computed(() => {
  const r = bench.road.value
  if (!r || !isEnd.value || index.value === null || !bench.canEdit.value) return false
  return !r.course.kind && !r.ties[index.value === 0 ? 'start' : 'end'] && (bench.project.value?.roads.length ?? 0) > 1
})
/** The road was renamed and its sheets were not. */
const sheetsElse = computed(() => {
  const name = bench.sheets.value?.name ?? ''
  return name.endsWith(' sheets') && name !== `${bench.road.value?.name} sheets`
})
const renameSheets = () => bench.put('sheets', bench.sheets.value!.id, 'name', { name: `${bench.road.value!.name} sheets` })
</script>

<template>
  <LineFitPanel v-if="ui.tool === 'fit-line'" />
  <div v-else-if="pi && index !== null" :key="pi.id ?? index">
    <h2>PI {{ index + 1 }} <small>{{ isEnd ? 'end of the line' : pi.turn > 0 ? 'right' : pi.turn < 0 ? 'left'
      : 'angle point' }}</small></h2>
    <NumberField label="Easting" :model-value="pi.easting" unit="m" :jump="bench.extent.value" :disabled="fixed" :wrong="wrong.easting"
        test="inspect-easting" @change="set('easting', $event)" />
    <NumberField label="Northing" :model-value="pi.northing" unit="m" :jump="bench.extent.value" :disabled="fixed" :wrong="wrong.northing"
        @change="set('northing', $event)" />
    <template v-if="!isEnd">
      <NumberField label="Radius" :model-value="pi.radius" :decimals="2" unit="m" :disabled="fixed" :wrong="wrong.radius"
          test="inspect-radius" @change="set('radius', $event)" />
      <NumberField label="Transition in" :model-value="pi.spiral_in" :decimals="2" unit="m" :disabled="fixed" :wrong="wrong.spiral_in"
          @change="set('spiral_in', $event)" />
      <NumberField label="Transition out" :model-value="pi.spiral_out" :decimals="2" unit="m" :disabled="fixed" :wrong="wrong.spiral_out"
          @change="set('spiral_out', $event)" />
      <CurveBy v-if="!fixed" :pi="pi" />
      <div v-if="pi.stations"
          class="value"><span>Curve</span><b>{{ bench.station(pi.stations[0]) }} to {{ bench.station(pi.stations[1]) }}</b></div>
    </template>
    <BendCrossfall :index="index" />
    <ProblemCards />
    <FindingCard v-for="f in findings.filter((q) => q.about.index === index)" :key="f.key" :finding="f" />
    <div v-if="bench.canEdit.value && pi.id" class="actions"><button class="btn" :disabled="pi.held"
        @click="remove">Delete PI</button></div>
    <template v-if="tieable"><button class="link" data-test="pi-tie" @click="tying = !tying">Tie this end to another road …</button><TieEnd
        v-if="tying" :end="index === 0 ? 'start' : 'end'" @done="tying = false" /></template>
    <HoldLine :index="index" />
    <hr />
  </div>
  <template v-if="ui.tool !== 'fit-line'">
  <h2>{{ bench.road.value?.name ?? 'Line' }} <small>stage 2</small></h2>
  <template v-if="!bench.road.value"><p
      class="faded">Draw a road over the plan: click its points of intersection. Or fit one to what was measured, or bring its line
      in.</p><LineActions /></template>
  <template v-else>
    <label class="name">Name <input class="field" :value="bench.road.value.name" :disabled="!bench.canEdit.value" maxlength="120"
        data-test="road-name" @change="setRoad('name', ($event.target as HTMLInputElement).value.trim() || bench.road.value!.name)"
        /></label>
    <p v-if="sheetsElse" class="faded" data-test="sheets-else">Its sheets are called {{ bench.sheets.value!.name }}. <button
        v-if="bench.canEdit.value" class="link" @click="renameSheets">Call them {{ bench.road.value.name }} sheets</button></p>
    <template v-if="line">
      <NumberField label="Start chainage" kind="station" :model-value="bench.road.value.start_station" :group="bench.style.value.group"
          :disabled="!bench.canEdit.value" @change="setRoad('start_station', $event ?? 0)" />
      <ChainageEquations />
      <div class="value"><span>Ends at</span><b>{{ bench.station(line.end, 3) }}</b></div>
      <div class="value"><span>Length</span><b>{{ sayLength(line.end - line.start, 3) }}</b></div>
      <div class="value"><span>Elements</span><b>{{ line.elements.length }}</b></div>
      <div v-if="sharpest" class="value"><span>Smallest radius</span><b>{{ sayLength(sharpest, 2) }}</b></div>
    </template>
    <template v-if="!pi">
      <ProblemCards />
      <FindingCard v-for="f in findings" :key="f.key" :finding="f" />
      <DesignSpeeds />
      <BendCrossfall :index="null" />
      <LineActions />
      <AnnotationForm />
    </template>
    <p class="faded">Click a PI to see its values, drag it to try a line; arrow keys move the chosen PI.</p>
  </template>
  </template>
</template>

<style scoped>
.name { display: grid; gap: 3px; color: var(--faded); margin-bottom: 6px; }
.name .field { color: var(--ink); }
</style>
