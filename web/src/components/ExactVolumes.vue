<script setup lang="ts">
/** Exact volumes from the existing ground to the formation of all that is built, by road and junction; of the road that is looked at also
 * what the sections say. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api } from '@/api/client'
import type { ExactVolumes } from '@/api/types'
import FoldGroup from '@/components/FoldGroup.vue'
import { useWorkbench } from '@/composables/workbench'
import { bareArea, bareVolume, sayVolume, units } from '@/lib/units'

const bench = useWorkbench()
const surface = computed(() => bench.road.value?.surface_id ?? bench.surface.value?.id ?? null)
const query = useQuery<ExactVolumes>({
  queryKey: computed(() => ['exact-volumes', surface.value, bench.project.value?.ledger.head]),
  queryFn: ({ signal }) => api.get<ExactVolumes>(`/surfaces/${surface.value}/finished/volumes`, signal),
  enabled: computed(() => surface.value !== null),
  placeholderData: (before: ExactVolumes | undefined) => before,
  retry: false,
})
const told = computed(() => query.data.value ?? null)
const sections = computed(() => bench.design.value?.earthwork ?? null)
const own = computed(() => told.value?.pieces.find((p) => p.name === bench.road.value?.name) ?? null)
</script>

<template>
  <FoldGroup title="Exact, all that is built">
    <p v-if="!told" class="faded">{{ query.error.value?.message ?? 'Being counted …' }}</p>
    <template v-else>
      <table class="grid" aria-label="Exact volumes">
        <thead><tr><th>To the</th><th class="num">Cut {{ units.volume }}</th><th
            class="num">Fill {{ units.volume }}</th></tr></thead>
        <tbody>
          <tr><td>formation</td><td class="num" data-test="exact-cut">{{ bareVolume(told.formation.cut, 0) }}</td><td
              class="num" data-test="exact-fill">{{ bareVolume(told.formation.fill, 0) }}</td></tr>
          <tr><td>finished ground</td><td class="num" data-test="finished-cut">{{ bareVolume(told.finished.cut, 0) }}</td><td
              class="num" data-test="finished-fill">{{ bareVolume(told.finished.fill, 0) }}</td></tr>
        </tbody>
      </table>
      <table class="grid" aria-label="Exact volumes to the formation, by piece">
        <thead><tr><th>Formation of</th><th class="num">{{ units.area }}</th><th class="num">Cut</th><th
            class="num">Fill</th></tr></thead>
        <tbody>
          <tr v-for="p in told.pieces" :key="p.name" :class="{ here: p === own }"><td>{{ p.name }}</td><td
              class="num">{{ bareArea(p.area, 0) }}</td><td class="num">{{ bareVolume(p.cut, 0) }}</td><td
              class="num">{{ bareVolume(p.fill, 0) }}</td></tr>
        </tbody>
      </table>
      <p v-if="own && sections" class="faded" data-test="exact-differs">The sections of {{ own.name }} come to
        {{ sayVolume(sections.cut, 0) }} of cut and {{ sayVolume(sections.fill, 0) }} of fill: they stand apart, and a slope that
        another road's lies over counts in both.</p>
    </template>
  </FoldGroup>
</template>

<style scoped>
.grid { width: 100%; table-layout: fixed; margin-bottom: 8px; }
.grid td:first-child { white-space: normal; overflow-wrap: anywhere; }
.grid th:first-child { width: 46%; }
</style>
