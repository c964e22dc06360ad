<script setup lang="ts">
/** The exact volume from one ground to another, where both are. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import type { VolumeBetween } from '@/api/types'
import FoldGroup from '@/components/FoldGroup.vue'
import { useWorkbench } from '@/composables/workbench'
import { sayArea, sayVolume } from '@/lib/units'

const bench = useWorkbench()
const surfaces = computed(() => (bench.project.value?.surfaces ?? []).filter((s) => s.sources.length))
const chosen = ref<{ from: number | null; to: number | null }>({ from: null, to: null })
const from = computed(() => chosen.value.from ?? bench.road.value?.surface_id ?? surfaces.value[0]?.id ?? null)
const ready = computed(() => from.value !== null && chosen.value.to !== null && chosen.value.to !== from.value)
const query = useQuery({
  queryKey: computed(() => ['volume-between', from.value, chosen.value.to, bench.project.value?.ledger.head]),
  queryFn: () => api.get<VolumeBetween>(`/surfaces/${from.value}/volume?to=${chosen.value.to}`),
  enabled: ready,
  retry: false,
})
const found = computed(() => (ready.value ? query.data.value : undefined))
</script>

<template>
  <FoldGroup title="Between two grounds" shut>
    <p v-if="surfaces.length < 2" class="faded">Bring in another ground, such as a later survey, to count the earth between both.</p>
    <template v-else>
      <div class="ask wide"><label for="volume-from">From</label><select id="volume-from" class="field" :value="from"
          data-test="volume-from" @change="chosen = { ...chosen, from: Number(($event.target as HTMLSelectElement).value) }"><option
          v-for="s in surfaces" :key="s.id" :value="s.id">{{ s.name }}</option></select></div>
      <div class="ask wide"><label for="volume-to">To</label><select id="volume-to" class="field" :value="chosen.to ?? ''"
          data-test="volume-to" @change="chosen = { ...chosen, to: Number(($event.target as HTMLSelectElement).value) }"><option
          value="" disabled>choose a ground</option><option v-for="s in surfaces.filter((q) => q.id !== from)" :key="s.id"
          :value="s.id">{{ s.name }}</option></select></div>
      <template v-if="found">
        <div class="value"><span>Cut</span><b data-test="between-cut">{{ sayVolume(found.cut, 0) }}</b></div>
        <div class="value"><span>Fill</span><b data-test="between-fill">{{ sayVolume(found.fill, 0) }}</b></div>
        <div class="value"><span>Fill less cut</span><b>{{ sayVolume(found.net, 0, true) }}</b></div>
        <div class="value"><span>Where both are</span><b>{{ sayArea(found.area, 0) }}</b></div>
        <p class="faded">{{ found.area ? 'Exact between both triangulations, piece by piece.' : 'They share no ground.' }}</p>
      </template>
      <p v-else-if="query.isFetching.value" class="faded">Counting …</p>
      <p v-if="query.error.value" class="wrong" role="alert">{{ query.error.value.message }}</p>
    </template>
  </FoldGroup>
</template>
