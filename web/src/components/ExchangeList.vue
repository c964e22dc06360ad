<script setup lang="ts">
/** The document exchange (simulated): what others have put there, what is newer than what was brought in, and what it would change. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import type { Acted, ExchangeDifference, ExchangeDocument } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
import { formatNumber } from '@/lib/format'
import { sayLength } from '@/lib/units'
import { useUi } from '@/stores/ui'
import { counted } from '@/lib/words'

const bench = useWorkbench()
const ui = useUi()
const query = useQuery({
  queryKey: computed(() => ['exchange', bench.projectId, bench.project.value?.ledger.head]),
  queryFn: () => api.get<ExchangeDocument[]>(`/projects/${bench.projectId}/exchange`),
  placeholderData: (before) => before,
})
const documents = computed(() => query.data.value ?? [])
const difference = ref<{ id: number; told: ExchangeDifference } | null>(null)
const busy = ref(0)
const WORDS = { new: 'not brought in', taken: 'brought in', newer: 'newer than what was brought in' }
async function compare(d: ExchangeDocument) {
  busy.value = d.id
  try {
    difference.value = { id: d.id, told: await api.get<ExchangeDifference>(`/projects/${bench.projectId}/exchange/${d.id}/difference`) }
  } finally {
    busy.value = 0
  }
}
async function take(d: ExchangeDocument) {
  busy.value = d.id
  if (await bench.act(() => api.post<Acted>(`/projects/${bench.projectId}/exchange/${d.id}/take`))) difference.value = null
  busy.value = 0
}
</script>

<template>
  <p v-if="!documents.length" class="faded">Nothing has been put there.</p>
  <div v-for="d in documents" :key="d.id" class="document" :class="d.state" data-test="document">
    <b>{{ d.name }}</b> version {{ d.version }} <span
        class="faded">· {{ d.by }}, {{ d.at.slice(0, 10) }}{{ d.remark ? `: ${d.remark}` : '' }}</span>
    <div><span :class="{ wrong: d.state === 'newer' }">{{ WORDS[d.state] }}</span>
      <button v-if="d.state === 'newer'" class="link" :disabled="!!busy" data-test="difference"
          @click="compare(d)">See the difference</button>
      <button v-if="d.state !== 'taken' && bench.canEdit.value" class="link" :disabled="!!busy" data-test="take"
          @click="take(d)">{{ busy === d.id ? 'Working…' : d.state === 'newer' ? 'Replace the older one' : 'Bring in' }}</button>
    </div>
    <div v-if="difference?.id === d.id" class="card" data-test="difference-told">
      {{ counted(difference.told.points_before, 'point') }} before, {{ formatNumber(difference.told.points_now, 0) }} now:
      {{ formatNumber(difference.told.gone, 0) }} gone, {{ formatNumber(difference.told.added, 0) }} added.
      {{ difference.told.levels_changed
        ? `${formatNumber(difference.told.levels_changed, 0)} have another level, by up to ${sayLength(difference.told.greatest, 3)}.`
        : 'No level has changed.' }}
      <button v-if="difference.told.place" class="link"
          @click="ui.goTo = { e: difference.told.place[0], n: difference.told.place[1] }">Show it</button>
    </div>
  </div>
</template>

<style scoped>
.document { font-size: 12px; padding: 4px 0 4px 8px; border-left: 3px solid var(--rule); margin: 5px 0; }
.document.newer { border-color: var(--ochre); }
.document.taken { border-color: var(--moss); }
.link + .link, span + .link { margin-left: 12px; }
.wrong { margin: 0; }
</style>
