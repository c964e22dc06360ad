<script setup lang="ts">
/** Junctions: where roads meet, the corners of the chosen one in a table, and the chosen corner's numbers. */
import { computed, ref } from 'vue'
import type { CornerRow, CornerShape } from '@/api/types'
import CornerCard from '@/components/junction/CornerCard.vue'
import CornerTable from '@/components/junction/CornerTable.vue'
import FinishedGroup from '@/components/junction/FinishedGroup.vue'
import SightRows from '@/components/junction/SightRows.vue'
import FindingCard from '@/components/FindingCard.vue'
import NumberField from '@/components/NumberField.vue'
import { useWorkbench } from '@/composables/workbench'
import { formatNumber } from '@/lib/format'
import { sayArea, sayLength, sayVolume } from '@/lib/units'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const SPAN = 90 // m of the plan around a junction
const junction = bench.junction
const wrong = ref('')
const nameOf = (id: number) => bench.project.value?.roads.find((r) => r.id === id)?.name ?? ''
async function shape(corners: CornerRow[], values: Partial<CornerShape>) {
  wrong.value = ''
  const done = await bench.changeCorners(
    junction.value!.id,
    corners.map((c) => c.road_id),
    values,
    { silentFailure: true },
  )
  if (!done) wrong.value = bench.failure.value?.message ?? ''
}
function look(id: number) {
  const j = bench.junctions.value.find((x) => x.id === id)
  bench.chosenJunction.value = id
  if (!j) return
  ui.goTo = { e: j.place[0], n: j.place[1], span: SPAN }
  ui.roadId = j.corners[0]?.road_id ?? j.main
}
async function make(offer: (typeof bench.offers.value)[number]) {
  if (await bench.join('junctions', offer)) ui.goTo = { e: offer.place[0], n: offer.place[1], span: SPAN }
}
const isExisting = computed(() => bench.project.value?.roads.find((r) => r.id === junction.value?.main)?.course.kind === 'existing')
const structures = computed<[string, string][]>(() => [
  ...(isExisting.value // of what is there nothing is known
    ? [['main', `as ${nameOf(junction.value!.side)}`] as [string, string]]
    : (['main', 'side'] as const).map((k): [string, string] => [k, `as ${nameOf(junction.value![k])}`])),
  ...(bench.project.value?.structures ?? []).map((s): [string, string] => [`${s.id}`, s.name]),
])
const others = computed(() => bench.junctions.value.filter((j) => j.id !== junction.value?.id))
const copy = (id: number) => id && bench.post('junction', junction.value!.id, 'copy', { other: id })
</script>

<template>
  <h2>{{ junction?.name ?? 'Junctions' }} <small>stage 6</small></h2>
  <p v-if="!bench.junctions.value.length && !bench.offers.value.length" class="faded">No roads meet yet. Draw one that ends at another or
    crosses it, and its junction is offered here.</p>
  <ul v-if="bench.junctions.value.length" class="list">
    <li v-for="j in bench.junctions.value" :key="j.id"><button class="btn quiet" :class="{ here: j.id === junction?.id }"
        :aria-current="j.id === junction?.id"
        :data-test="`junction-${j.id}`" @click="look(j.id)">{{ j.name }}</button><span class="faded">{{
        j.main_station === undefined ? '' : bench.station(j.main_station, 0) }}</span><span v-if="j.problems.length"
        class="wrong" title="It cannot be computed">!</span></li>
  </ul>
  <template v-if="bench.offers.value.length">
    <h3>Where roads meet</h3>
    <ul class="list">
      <li v-for="o in bench.offers.value" :key="`${o.main}-${o.side}-${o.place.join()}`"><span>{{ nameOf(o.side) }}
        {{ o.crosses ? 'crosses' : 'ends at' }} {{ nameOf(o.main) }}, {{ formatNumber(o.angle_deg, 0) }}°</span><button
        v-if="bench.canEdit.value" class="btn" data-test="make-junction" @click="make(o)">Make junction</button></li>
    </ul>
  </template>
  <template v-if="junction">
    <hr />
    <div class="value"><span>Main road</span><b><button class="btn quiet" data-test="to-main"
        @click="ui.roadId = junction.main">{{ nameOf(junction.main) }}</button></b></div>
    <div class="value"><span>Side road</span><b><button class="btn quiet" data-test="to-side"
        @click="ui.roadId = junction.side">{{ nameOf(junction.side) }}</button></b></div>
    <div v-if="junction.angle_deg !== undefined" class="value"><span>Angle</span><b>{{ formatNumber(junction.angle_deg, 1) }}°</b></div>
    <div v-for="p in junction.patches" :key="p.arm" class="value"><span>Arm {{ p.arm }}</span><b>{{ sayArea(p.area, 1) }}</b></div>
    <NumberField label="Crossfall run out over" unit="m" :decimals="2" :model-value="junction.run_out" :least="0" :greatest="300"
        :disabled="!bench.canEdit.value" test="run-out"
        @change="(v) => v !== null && bench.change('junction', junction!.id, { run_out: v })" />
    <NumberField v-if="isExisting" label="Main road falls to the edge" kind="grade" unit="%" :decimals="2" :model-value="junction.edge_fall"
        :empty="junction.edge_fall_read == null ? 'not known' : `${formatNumber(100 * junction.edge_fall_read, 2)} as read`"
        :least="-0.15" :greatest="0.15" :disabled="!bench.canEdit.value" test="edge-fall"
        @change="(v) => bench.change('junction', junction!.id, { edge_fall: v })" />
    <div class="ask wide"><label for="junction-structure">Pavement</label><select id="junction-structure" class="field"
        :value="structures.some(([k]) => k === junction!.structure) ? junction.structure : 'main'"
        :disabled="!bench.canEdit.value" data-test="junction-structure"
        @change="bench.change('junction', junction!.id, { structure: ($event.target as HTMLSelectElement).value })"><option
        v-for="[k, name] in structures" :key="k" :value="k">{{ name }}</option></select></div>
    <div v-for="l in junction.layers" :key="l.material" class="value" :data-test="`junction-layer-${l.material}`"><span>{{ l.material }},
      {{ sayLength(l.thickness, 3) }}</span><b>{{ sayVolume(l.volume, 1) }}</b></div>
    <p v-for="p in junction.problems" :key="p" class="wrong" role="alert" data-test="junction-problem">{{ p }}</p>
    <h3>Corners</h3>
    <CornerTable :junction="junction" @shape="shape" />
    <p v-if="wrong" class="wrong" role="alert" data-test="corner-wrong">{{ wrong }}</p>
    <CornerCard v-if="bench.corner.value" :corner="bench.corner.value" :junction="junction" @shape="shape" />
    <SightRows />
    <FindingCard v-for="f in junction.findings" :key="f.sentence" :finding="f" />
    <div v-if="bench.canEdit.value" class="actions">
      <label v-if="others.length" class="copy">Values from <select class="field" data-test="junction-copy" aria-label="Values from"
          @change="copy(Number(($event.target as HTMLSelectElement).value))"><option value="0">…</option><option v-for="j in others"
          :key="j.id" :value="j.id">{{ j.name }}</option></select></label>
      <button class="btn" data-test="delete-junction" @click="bench.remove('junction', junction.id)">Delete junction</button>
    </div>
  </template>
  <FinishedGroup v-if="bench.road.value" />
</template>

<style scoped>
.list { list-style: none; margin: 4px 0; padding: 0; }
.list li { display: flex; justify-content: space-between; gap: 8px; align-items: center; padding: 2px 0; }
.list li > :first-child { min-width: 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.list .here { font-weight: 600; color: var(--petrol); }
.value .btn { padding: 0 4px; min-height: 22px; }
.copy { display: flex; gap: 6px; align-items: center; }
</style>
