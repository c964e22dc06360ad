<script setup lang="ts">
import { computed } from 'vue'
import { isDesignFinding } from '@/api/types'
import AlongList from '@/components/along/AlongList.vue'
import EarthworkSummary from '@/components/EarthworkSummary.vue'
import FindingCard from '@/components/FindingCard.vue'
import BedsList from '@/components/BedsList.vue'
import LandGroup from '@/components/LandGroup.vue'
import NumberField from '@/components/NumberField.vue'
import ProblemCards from '@/components/ProblemCards.vue'
import { useRefusals } from '@/composables/useRefusals'
import { useWorkbench } from '@/composables/workbench'
import { formatNumber } from '@/lib/format'
import { bareArea, sayArea, sayLength } from '@/lib/units'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const road = bench.road
const { wrong, run } = useRefusals(bench, () => ui.roadId)
const sections = computed(() => bench.design.value?.earthwork?.station.length ?? 0)
const set = (field: string, value: unknown) =>
  run(field, () => bench.change('road', ui.roadId!, { [field]: value }, { silentFailure: true }))
/** Where the road's sections stand. */
const where = computed(() => {
  const always = 'Sections stand at this interval and at every tangent point and grade change'
  const within = road.value?.fineness
  if (within === null || within === undefined) return `${always}.`
  return (
    `${always}; closer where an edge between two of them lies off their straight by more than ${sayLength(within, 3)}, or a part changes ` +
    `its case, down to ${sayLength(0.5, 1)}.`
  )
})
async function remove() {
  await bench.remove('road', ui.roadId!)
}
</script>

<template>
  <h2>{{ road?.name ?? 'Road' }} <small>stage 5</small></h2>
  <p v-if="!road" class="faded">There is no road yet. Draw one in stage 2.</p>
  <template v-else>
    <div class="ask wide"><label for="road-template">Template</label><select id="road-template" class="field"
        :value="road.template_id ?? ''" :disabled="!bench.canEdit.value"
        @change="set('template_id', Number(($event.target as HTMLSelectElement).value) || null)"><option
        value="">none: stretches only</option><option
        v-for="t in bench.project.value?.templates" :key="t.id" :value="t.id">{{ t.name }}</option></select></div>
    <div class="ask wide"><label for="road-surface">Ground</label><select id="road-surface" class="field" :value="road.surface_id ?? ''"
        :disabled="!bench.canEdit.value" @change="set('surface_id', Number(($event.target as HTMLSelectElement).value) || null)"><option
        value="">none</option><option v-for="s in bench.project.value?.surfaces" :key="s.id"
        :value="s.id">{{ s.name }}</option></select></div>
    <NumberField label="A section every" :model-value="road.interval" :decimals="2" unit="m" :disabled="!bench.canEdit.value"
        :wrong="wrong.interval" test="road-interval" @change="set('interval', $event)" />
    <NumberField v-if="road.course.kind !== 'return'" label="Closer, to keep edges within" :model-value="road.fineness" :decimals="3"
        unit="m" empty="off" :disabled="!bench.canEdit.value" :wrong="wrong.fineness" test="road-fineness"
        @change="set('fineness', $event)" />
    <div class="value"><span>Sections</span><b>{{ formatNumber(sections, 0) }}</b></div>
    <p class="faded">{{ where }}</p>
    <ProblemCards />
    <AlongList />
    <LandGroup />
    <BedsList />
    <EarthworkSummary />
    <template v-if="bench.section.value">
      <hr />
      <h3>Section {{ bench.station(bench.section.value.station) }}</h3>
      <div class="value"><span>Profile level</span><b>{{ sayLength(bench.section.value.level, 3) }}</b></div>
      <div class="value"><span>Cut / fill</span><b>{{ bareArea(bench.section.value.cut, 2) }} / {{ sayArea(bench.section.value.fill,
        2) }}</b></div>
      <div v-for="l in bench.section.value.layers" :key="l.material"
          class="value"><span>{{ l.material }}</span><b>{{ sayArea(l.area, 3) }}</b></div>
      <div v-for="side in bench.section.value.sides" :key="side.side"
          class="value"><span>Toe {{ side.side }}</span><b>{{ side.toe !== null ? `${sayLength(side.toe, 2, true)}` : 'not met' }}</b></div>
    </template>
    <template v-if="bench.design.value?.findings.some((q) => !isDesignFinding(q))">
      <hr />
      <h3>Findings</h3>
      <FindingCard v-for="f in bench.design.value.findings.filter((q) => !isDesignFinding(q))" :key="f.sentence" :finding="f" />
    </template>
    <div v-if="bench.canEdit.value" class="actions"><button class="btn" data-test="delete-road" @click="remove">Delete road</button></div>
  </template>
</template>
