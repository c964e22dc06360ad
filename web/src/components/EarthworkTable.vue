<script setup lang="ts">
import { computed, nextTick, useTemplateRef, watch } from 'vue'
import { useVolumes } from '@/composables/useVolumes'
import { useWorkbench } from '@/composables/workbench'
import { bareArea, bareVolume, units } from '@/lib/units'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const { query, picture } = useVolumes()
const rows = computed(() => picture.value?.rows ?? [])
const empty = computed(() =>
  query.isFetching.value
    ? 'Computing the volumes …'
    : query.error.value
      ? query.error.value.message
      : 'Volumes stand here as soon as the road has a line, a profile, a template and ground.',
)
const table = useTemplateRef<HTMLTableElement>('table')
// the row of the section at the reading mark, or the one before it
const here = computed(() => rows.value.findLastIndex((r) => r.station <= ui.mark + 0.005))
watch([here, table, () => rows.value.length], async () => {
  await nextTick()
  table.value?.querySelector('tr.here')?.scrollIntoView?.({ block: 'nearest' })
})
</script>

<template>
  <table ref="table" class="grid" aria-label="Areas and volumes" data-test="volumes">
    <thead><tr><th>{{ bench.style.value.word }}</th><th class="num">Cut {{ units.area }}</th><th class="num">Fill {{ units.area }}</th><th
        class="num">Cut {{ units.volume }}</th><th class="num">Fill {{ units.volume }}</th><th
        class="num">Sum of cut {{ units.volume }}</th><th class="num">Sum of fill {{ units.volume }}</th><th
        class="num">Balance {{ units.volume }}</th></tr></thead>
    <tbody>
      <tr v-for="(r, i) in rows" :key="r.station" :class="{ here: i === here }" @click="bench.setMark(r.station)">
        <td>{{ bench.station(r.station, 3) }}</td><td class="num"><span v-if="r.unmet" class="unmet" role="img"
            aria-label="a slope does not meet the ground here"
            title="A slope does not meet the ground here; its area ends at the search limit.">⚑ </span>{{ bareArea(r.cut_area, 2) }}</td
          ><td
            class="num">{{ bareArea(r.fill_area, 2) }}</td><td class="num">{{ bareVolume(r.cut, 1) }}</td><td
            class="num">{{ bareVolume(r.fill, 1) }}</td>
        <td class="num">{{ bareVolume(r.cumulative_cut, 0) }}</td><td class="num">{{ bareVolume(r.cumulative_fill, 0) }}</td><td
            class="num">{{ bareVolume(r.balance, 0, true) }}</td>
      </tr>
      <tr v-if="!rows.length"><td colspan="8" class="faded" data-test="volumes-empty">{{ empty }}</td></tr>
    </tbody>
  </table>
</template>

<style scoped>
.unmet { color: var(--madder); }
</style>
