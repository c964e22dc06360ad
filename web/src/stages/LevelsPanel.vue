<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api } from '@/api/client'
import { isDesignFinding } from '@/api/types'
import EarthworkSummary from '@/components/EarthworkSummary.vue'
import FindingCard from '@/components/FindingCard.vue'
import FoldGroup from '@/components/FoldGroup.vue'
import FixedPoints from '@/components/FixedPoints.vue'
import GroundBeside from '@/components/GroundBeside.vue'
import ProfileCandidates from '@/components/ProfileCandidates.vue'
import GuideList from '@/components/GuideList.vue'
import NumberField from '@/components/NumberField.vue'
import ProblemCards from '@/components/ProblemCards.vue'
import { useRefusals } from '@/composables/useRefusals'
import { useWorkbench } from '@/composables/workbench'
import { formatNumber } from '@/lib/format'
import { bareLength, sayFine, sayLength } from '@/lib/units'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const look = useLook()
const pvis = computed(() => bench.design.value?.pvis ?? [])
const index = computed(() =>
  ui.selection?.kind === 'pvi' ? pvis.value.findIndex((p) => ui.selection?.kind === 'pvi' && p.id === ui.selection.id) : -1,
)
const pvi = computed(() => pvis.value[index.value] ?? null)
const isEnd = computed(() => index.value === 0 || index.value === pvis.value.length - 1)
const { wrong, run } = useRefusals(bench, () => pvi.value?.id)
const HELD = {
  station: 'its chainage',
  place: 'its place in plan',
  tangent: 'a tangent point',
  start: 'the start of the line',
  end: 'the end of the line',
}
const limits = computed(() => bench.design.value?.limits)
const findings = computed(() =>
  [...(bench.design.value?.findings ?? []), ...(bench.design.value?.departures ?? [])]
    .filter(isDesignFinding)
    .filter((f) => f.about.kind !== 'pi'),
)
const greatest = computed(() => Math.max(0, ...pvis.value.map((p) => Math.abs(p.grade_out ?? 0))))
const change = computed(() =>
  pvi.value?.grade_in !== null && pvi.value?.grade_out !== null && pvi.value
    ? Math.abs(100 * (pvi.value.grade_out! - pvi.value.grade_in!))
    : 0,
)
async function set(values: Record<string, unknown>, field: string) {
  const p = pvi.value!
  await run(field, () => bench.change('pvi', p.id, values, { silentFailure: true }))
}
const halves = ref(false)
const unequal = computed(
  () => halves.value || (pvi.value !== null && !pvi.value.circular && Math.abs(pvi.value.half_in - pvi.value.half_out) > 1e-6),
)
watch(index, () => (halves.value = false))
/** The chosen PVI goes up or down until a grade beside it is the typed one. */
function setGrade(grade: number | null, field: 'grade_in' | 'grade_out') {
  const p = pvi.value!
  const q = pvis.value[index.value + (field === 'grade_in' ? -1 : 1)]!
  if (grade !== null) void set({ elevation: q.elevation + grade * (p.station - q.station) }, field)
}
const rise = ref<number | null>(null)
async function raise(value: number | null) {
  if (!value) return
  const range = ui.range ? { station_from: ui.range[0], station_to: ui.range[1] } : {}
  await bench.act(() => api.post(`/roads/${ui.roadId}/profile/raise`, { rise: value, ...range }))
  rise.value = null
}
const setLength = (length: number | null, field: string) => set({ half_in: (length ?? 0) / 2, half_out: (length ?? 0) / 2 }, field)
async function remove() {
  const p = pvi.value!
  ui.selection = null
  await bench.remove('pvi', p.id)
}
</script>

<template>
  <div v-if="pvi" :key="pvi.id">
    <h2>PVI {{ index + 1 }} <small>{{ isEnd ? 'end of the profile' : pvi.kind }}</small></h2>
    <NumberField label="Chainage" kind="station" :model-value="pvi.station" :decimals="3" :group="bench.style.value.group"
        :disabled="!bench.canEdit.value || isEnd" :wrong="wrong.station" test="pvi-station" @change="set({ station: $event }, 'station')"
        />
    <NumberField label="Level" :model-value="pvi.elevation" unit="m" :disabled="!bench.canEdit.value" :wrong="wrong.elevation"
        test="pvi-level" @change="set({ elevation: $event }, 'elevation')" />
    <NumberField v-if="pvi.grade_in !== null" label="Grade in" kind="grade" :decimals="3" :model-value="pvi.grade_in" unit="%"
        :disabled="!bench.canEdit.value" :wrong="wrong.grade_in" test="pvi-grade-in" @change="setGrade($event, 'grade_in')" />
    <NumberField v-if="pvi.grade_out !== null" label="Grade out" kind="grade" :decimals="3" :model-value="pvi.grade_out" unit="%"
        :disabled="!bench.canEdit.value" :wrong="wrong.grade_out" test="pvi-grade-out" @change="setGrade($event, 'grade_out')" />
    <template v-if="!isEnd">
      <NumberField label="Curve length" :model-value="pvi.length" unit="m" :disabled="!bench.canEdit.value" :wrong="wrong.length"
          test="pvi-length" @change="setLength($event, 'length')" />
      <template v-if="unequal">
        <NumberField label="before the PVI" :model-value="pvi.half_in" unit="m" :disabled="!bench.canEdit.value" :wrong="wrong.half_in"
            test="pvi-half-in" @change="set({ half_in: $event ?? 0 }, 'half_in')" />
        <NumberField label="behind the PVI" :model-value="pvi.half_out" unit="m" :disabled="!bench.canEdit.value" :wrong="wrong.half_out"
            test="pvi-half-out" @change="set({ half_out: $event ?? 0 }, 'half_out')" />
      </template>
      <p v-else-if="pvi.circular" class="faded" data-test="pvi-circular">An arc of a circle, as received. <button
          v-if="bench.canEdit.value" class="link" data-test="pvi-parabola"
          @click="set({ circular: false, half_in: pvi.length / 2, half_out: pvi.length / 2 }, 'length')">Make it a parabola</button> of
          the same length; it moves by at most {{ sayFine(pvi.circle_differs, 1) }}.</p>
      <button v-else-if="bench.canEdit.value" class="link" data-test="pvi-unequal" @click="halves = true">Unequal halves</button>
      <NumberField label="K" :model-value="pvi.k" :decimals="1" unit="m/%" empty="–" :disabled="!bench.canEdit.value || change < 1e-6"
          :wrong="wrong.k" test="pvi-k" @change="setLength($event === null ? 0 : Math.round($event * change * 1000) / 1000, 'k')" />
      <NumberField label="Radius" :model-value="pvi.k === null ? null : 100 * pvi.k" :decimals="0" unit="m" empty="–"
          :disabled="!bench.canEdit.value || change < 1e-6" :wrong="wrong.radius" test="pvi-radius"
          @change="setLength($event === null ? 0 : Math.round(($event * change) / 100 * 1000) / 1000, 'radius')" />
      <button v-if="bench.canEdit.value" class="link" data-test="pvi-through"
          @click="ui.tool = 'pvi-through'">Curve through a point …</button>
      <div class="held">
        <label for="held-by">Held by</label>
        <select id="held-by" class="field" :value="pvi.anchor" :disabled="!bench.canEdit.value" data-test="pvi-anchor"
            @change="set({ anchor: ($event.target as HTMLSelectElement).value }, 'anchor')">
          <option v-for="a in (['station', 'place', 'tangent'] as const)" :key="a" :value="a">{{ HELD[a] }}</option>
        </select>
      </div>
      <p v-if="wrong.anchor" class="wrong">{{ wrong.anchor }}</p>
      <p v-if="pvi.anchor === 'tangent' && pvi.pi !== null"
          class="faded">{{ sayLength(pvi.ahead, 2, true) }} from {{ pvi.tangent_point }} of PI {{ pvi.pi + 1 }}</p>
    </template>
    <FindingCard v-for="f in findings.filter((q) => q.about.index === index)" :key="f.key" :finding="f" />
    <p v-if="isEnd" class="faded">This PVI stays at the {{ index === 0 ? 'start' : 'end' }} of the line.</p>
    <div v-if="bench.canEdit.value && !isEnd" class="actions"><button class="btn" @click="remove">Delete PVI</button></div>
    <hr />
  </div>
  <ProblemCards />
  <h2>{{ bench.road.value?.name ?? 'Levels' }}, whole road <small>stage 3</small></h2>
  <EarthworkSummary />
  <div v-if="pvis.length" class="value"><span>Greatest grade</span><b
      :class="{ bad: limits && greatest > limits.greatest_grade + 1e-9 }">{{ formatNumber(greatest * 100, 2) }} %</b></div>
  <p v-if="pvis.length"
      class="faded">Limits of the project: {{ formatNumber((limits?.greatest_grade ?? 0) * 100, 1) }} % and K
      {{ bareLength(limits?.least_k, 0) }}.</p>
  <p v-else class="faded">Fit a first profile to the ground, then drag its PVIs in the long section.</p>
  <template v-if="pvis.length">
    <FindingCard v-for="f in pvi ? [] : findings" :key="f.key" :finding="f" />
    <NumberField v-if="look.sightLane" label="View free beside the line" :model-value="bench.road.value?.sight_clearance ?? null"
        :decimals="2" unit="m" empty="slopes only" :disabled="!bench.canEdit.value" test="sight-clearance"
        @change="(v) => bench.change('road', ui.roadId!, { sight_clearance: v })" />
    <GuideList />
    <FixedPoints />
    <ProfileCandidates />
    <GroundBeside />
    <FoldGroup title="PVIs">
      <NumberField v-if="bench.canEdit.value" :label="ui.range ? 'Raise those in the range by' : 'Raise all by'" :model-value="rise"
          :decimals="3" unit="m" test="raise-pvis" @change="raise" />
      <button v-for="(p, i) in pvis" :key="p.id" class="pvi-row" :class="{ on: i === index }"
          @click="ui.selection = { kind: 'pvi', id: p.id }; bench.setMark(p.station)"><span>{{ i + 1 }} &nbsp;
          {{ bench.station(p.station) }}</span><b>{{ bareLength(p.elevation, 3) }}</b></button>
    </FoldGroup>
  </template>
</template>

<style scoped>
.held { display: grid; grid-template-columns: 1fr 146px; align-items: center; margin: 4px 0; }
.held label { color: var(--faded); }
.bad { color: var(--madder); }
.pvi-row {
  display: flex; justify-content: space-between; width: 100%; border: 0; border-bottom: 1px solid #f0ebdf; background: none;
  padding: 4px 4px; cursor: pointer;
}
.pvi-row:hover, .pvi-row.on { background: var(--petrol-wash); }
</style>
