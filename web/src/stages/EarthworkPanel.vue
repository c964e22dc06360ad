<script setup lang="ts">
import { computed } from 'vue'
import EarthworkSummary from '@/components/EarthworkSummary.vue'
import ProblemCards from '@/components/ProblemCards.vue'
import { useWorkbench } from '@/composables/workbench'
import { formatNumber } from '@/lib/format'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const e = computed(() => bench.design.value?.earthwork ?? null)
</script>

<template>
  <h2>Earthwork <small>stage 7</small></h2>
  <ProblemCards />
  <EarthworkSummary />
  <p v-if="!e" class="faded">Areas and volumes follow from the road as soon as it has a line, a profile, a template and ground.</p>
  <template v-else>
    <p v-if="e.unknown > 0" class="card doubt">Part of the road lies where no ground is known (at most {{ formatNumber(e.unknown, 1) }} m wide); its earth is not counted there.</p>
    <hr />
    <h3>Pavement layers</h3>
    <div v-for="l in e.layers" :key="l.material" class="value"><span>{{ l.material }}</span><b>{{ formatNumber(l.volume, 0) }} m³</b></div>
    <p class="faded">Average end areas between formation and ground, from {{ e.station.length }} sections, without curve correction.</p>
    <p v-if="ui.range" class="faded">The table and its CSV keep to the marked range. <button class="link" @click="ui.range = null">Clear the range</button></p>
    <p v-else class="faded">Shift-drag on the route bar marks a range; the table and its CSV keep to it.</p>
  </template>
</template>
