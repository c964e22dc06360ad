<script setup lang="ts">
import { computed, ref } from 'vue'
import type { PIRow } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
import { formatNumber } from '@/lib/format'
import { bareLength, units } from '@/lib/units'
import { useUi } from '@/stores/ui'
import NumberField from './NumberField.vue'

const bench = useWorkbench()
const ui = useUi()
const pis = computed(() => bench.design.value?.pis ?? [])
const elements = computed(() => bench.design.value?.line?.elements ?? [])
const wrong = ref<{ index: number; field: string; text: string } | null>(null)
const KIND = { Line: 'straight', Curve: 'arc', Spiral: 'transition' }
const FIELDS = ['easting', 'northing', 'radius', 'spiral_in', 'spiral_out'] as const

async function set(p: PIRow, index: number, field: (typeof FIELDS)[number], value: number | null) {
  wrong.value = null
  const done = await bench.change('pi', p.id!, { [field]: value ?? 0 }, { silentFailure: true })
  if (!done && bench.failure.value) wrong.value = { index, field, text: bench.failure.value.message }
}
const isEnd = (i: number) => i === 0 || i === pis.value.length - 1
const radius = (r: number | null) => (r === null ? '∞' : `${bareLength(Math.abs(r), 2)} ${r > 0 ? 'right' : 'left'}`)
</script>

<template>
  <div class="two">
    <table class="grid" aria-label="Points of intersection">
      <thead><tr><th>PI</th><th class="num">Easting {{ units.length }}</th><th class="num">Northing {{ units.length }}</th><th
          class="num">Radius {{ units.length }}</th><th class="num"
          title="Transition length before the arc">In {{ units.length }}</th><th class="num"
          title="Transition length after the arc">Out {{ units.length }}</th><th></th></tr></thead>
      <tbody>
        <template v-for="(p, i) in pis" :key="p.id ?? i">
          <tr :class="{ here: ui.selection?.kind === 'pi' && ui.selection.index === i }" @focusin="bench.choosePi(i)">
            <td>{{ i + 1 }}</td>
            <td v-for="f in FIELDS" :key="f" class="num">
              <NumberField v-if="f === 'easting' || f === 'northing' || !isEnd(i)" compact unit="m"
                  :label="`PI ${i + 1} ${f.replace('_', ' ')}`" :model-value="p[f]"
                  :class="{ narrow: f !== 'easting' && f !== 'northing' }" :decimals="f === 'easting' || f === 'northing' ? 3 : 2"
                  :disabled="!bench.canEdit.value || !p.id || p.held"
                  :jump="f === 'easting' || f === 'northing' ? bench.extent.value : undefined" told-elsewhere :test="`pi-${i + 1}-${f}`"
                  @change="set(p, i, f, $event)" />
            </td>
            <td><button v-if="bench.canEdit.value && p.id" class="btn quiet" :aria-label="`Delete PI ${i + 1}`" title="Delete"
                @click="bench.remove('pi', p.id)">×</button></td>
          </tr>
          <tr v-if="wrong?.index === i"><td></td><td colspan="6" class="why"><p class="wrong" role="alert"
              data-test="pi-wrong">{{ wrong.text }}</p></td></tr>
        </template>
        <tr v-if="!pis.length"><td colspan="7" class="faded">No PIs yet. Choose 'Draw road' over the plan.</td></tr>
      </tbody>
    </table>
    <table class="grid" aria-label="Elements">
      <thead><tr><th>Element</th><th class="num">From</th><th class="num">Length {{ units.length }}</th><th
          class="num">Radius {{ units.length }}</th><th class="num">A {{ units.length }}</th><th class="num">Azimuth °</th></tr></thead>
      <tbody>
        <tr v-for="(e, i) in elements" :key="i" :class="{ here: ui.mark >= e.start && ui.mark < e.end }" @click="bench.setMark(e.start)">
          <td>{{ KIND[e.kind] }}</td><td class="num" :title="`to ${bench.station(e.end, 3)}`">{{ bench.station(e.start, 3) }}</td><td
              class="num">{{ bareLength(e.length, 3) }}</td>
          <td class="num">{{ e.kind === 'Spiral' ? radius(e.radius_end ?? e.radius_start) : radius(e.radius_start) }}</td><td
              class="num">{{ e.parameter ? bareLength(e.parameter, 2) : '' }}</td><td class="num">{{ formatNumber(e.azimuth_deg, 4) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.two { display: grid; grid-template-columns: max-content minmax(400px, 1fr); gap: 10px; align-items: start; }
.two th, .two td { padding-inline: 5px; }
.two :deep(td .field) { width: 96px; }
.two :deep(td .narrow .field) { width: 56px; }
.why { white-space: normal !important; }
.why p { width: 0; min-width: 100%; }
</style>
