<script setup lang="ts">
import { computed } from 'vue'
import ExactVolumes from '@/components/ExactVolumes.vue'
import EarthworkSummary from '@/components/EarthworkSummary.vue'
import ProblemCards from '@/components/ProblemCards.vue'
import VolumeBetween from '@/components/VolumeBetween.vue'
import { useWorkbench } from '@/composables/workbench'
import { useVolumes, WAYS } from '@/composables/useVolumes'
import { bareVolume, sayLength, sayVolume, units } from '@/lib/units'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const look = useLook()
const { picture, query } = useVolumes()
const e = computed(() => bench.design.value?.earthwork ?? null)
</script>

<template>
  <h2>Earthwork <small>stage 7</small></h2>
  <ProblemCards />
  <EarthworkSummary />
  <p v-if="!e" class="faded">Areas and volumes follow from the road as soon as it has a line, a profile, a template and ground.</p>
  <template v-else>
    <p v-if="e.unknown > 0"
        class="card doubt">Part of the road lies where no ground is known (at most {{ sayLength(e.unknown, 1) }} wide); its earth is not
        counted there.</p>
    <hr />
    <h3>{{ ui.range ? `${bench.station(ui.range[0], 2)} to ${bench.station(ui.range[1], 2)}` : 'Three ways to count' }}</h3>
    <table class="grid ways" aria-label="Volumes by three ways" data-test="volume-ways">
      <thead><tr><th>Way</th><th class="num">Cut {{ units.volume }}</th><th class="num">Fill {{ units.volume }}</th></tr></thead>
      <tbody>
        <tr v-for="[w, name, told] in WAYS" :key="w" :class="{ here: look.volumeWay === w }">
          <td><label :title="told"><input v-model="look.volumeWay" type="radio" name="volume-way" :value="w" :data-test="`way-${w}`"
              /> {{ name }}</label></td>
          <td class="num">{{ bareVolume(picture?.totals[w]?.cut ?? null, 1) }}</td><td
              class="num">{{ bareVolume(picture?.totals[w]?.fill ?? null, 1) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="query.error.value" class="wrong" role="alert">{{ query.error.value.message }}</p>
    <h3>Pavement layers</h3>
    <div v-for="l in picture?.layers ?? e.layers" :key="l.material"
        class="value"><span>{{ l.material }}</span><b>{{ sayVolume(l.volume, 0) }}</b></div>
    <p class="faded">Between formation and ground, from {{ picture?.rows.length ?? e.station.length }} sections; the chosen way
      is that of the table and its CSV. Inside tight bends strips are shorter than the line, and nothing is counted
      beyond the bend's centre. What a junction takes over is counted there, and what a return builds with the return.</p>
    <p v-if="ui.range" class="faded">The table and its CSV keep to the marked range. <button class="link"
        @click="ui.range = null">Clear the range</button></p>
    <p v-else class="faded">Shift-drag on the route bar marks a range; the table and its CSV keep to it.</p>
  </template>
  <ExactVolumes v-if="e" />
  <VolumeBetween />
</template>

<style scoped>
.ways { width: 100%; margin-bottom: 12px; }
.ways th, .ways td { padding-inline: 3px; }
.ways label { display: flex; gap: 5px; align-items: center; white-space: nowrap; }
</style>
