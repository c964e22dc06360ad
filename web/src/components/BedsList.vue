<script setup lang="ts">
/** Ditches and channels of the road: where water stands in them, and where they run out and it must be led off. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api } from '@/api/client'
import type { BedRow } from '@/api/types'
import FoldGroup from '@/components/FoldGroup.vue'
import { useWorkbench } from '@/composables/workbench'
import { bareLength } from '@/lib/units'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const ready = computed(() => ui.stage === 'road' && !!bench.saved.value?.earthwork)
const query = useQuery({
  queryKey: computed(() => ['beds', ui.roadId, bench.saved.value?.key]),
  queryFn: () => api.get<BedRow[]>(`/roads/${ui.roadId}/beds`),
  enabled: ready,
  placeholderData: (before) => before,
})
const beds = computed(() => (ready.value ? (query.data.value ?? []) : []))
const lows = computed(() => beds.value.reduce((n, b) => n + b.lows.length, 0))
const go = (s: number) => (ui.mark = s)
</script>

<template>
  <FoldGroup v-if="beds.length" title="Ditches and channels" :count="lows || undefined"
      :note="lows ? (lows === 1 ? 'low point' : 'low points') : ''" data-test="beds">
    <div v-for="b in beds" :key="`${b.side}${b.role}${b.station_from}`" class="bed">
      <div class="line"><span>{{ b.side }} {{ b.role }}</span><small>{{ bench.station(b.station_from, 0) }} –
        {{ bench.station(b.station_to, 0) }}</small></div>
      <div v-for="[s, z] in b.lows" :key="`l${s}`" class="at low"><button class="link" data-test="bed-low" @click="go(s)">low point
        {{ bench.station(s, 0) }}</button><b>{{ bareLength(z, 2) }}</b></div>
      <div v-for="[s, z] in b.outfalls" :key="`o${s}`" class="at"><button class="link" data-test="bed-outfall" @click="go(s)">runs out at
        {{ bench.station(s, 0) }}</button><b>{{ bareLength(z, 2) }}</b></div>
      <div v-if="b.flattest < 0.005" class="at"><button class="link" data-test="bed-flat" @click="go(b.flattest_at)">flattest at
        {{ bench.station(b.flattest_at, 0) }}</button><b>{{ (100 * b.flattest).toFixed(2) }} %</b></div>
    </div>
  </FoldGroup>
</template>

<style scoped>
.bed { margin: 4px 0; }
.line, .at { display: flex; justify-content: space-between; gap: 8px; }
.line small { color: var(--faded); white-space: nowrap; }
.at { padding-left: 10px; }
.at.low .link { color: var(--madder); }
</style>
