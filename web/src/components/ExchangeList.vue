<script setup lang="ts">
/** The document exchange (simulated): what others have put there, what is newer than what was brought in, and what it would change. */
import { useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref } from 'vue'
import { api } from '@/api/client'
import type { ExchangeDocument } from '@/api/types'
import { when } from '@/lib/dates'
import { useWorkbench } from '@/composables/workbench'

const ImportDialog = defineAsyncComponent(() => import('@/components/ImportDialog.vue'))
const bench = useWorkbench()
const query = useQuery({
  queryKey: computed(() => ['exchange', bench.projectId, bench.project.value?.ledger.head]),
  queryFn: () => api.get<ExchangeDocument[]>(`/projects/${bench.projectId}/exchange`),
  placeholderData: (before) => before,
})
const documents = computed(() => query.data.value ?? [])
const looking = ref<ExchangeDocument | null>(null)
const WORDS = { new: 'not brought in', taken: 'brought in', newer: 'newer than what was brought in' }
</script>

<template>
  <p v-if="!documents.length" class="faded">Nothing has been put there.</p>
  <div v-for="d in documents" :key="d.id" class="document" :class="d.state" data-test="document">
    <b>{{ d.name }}</b> version {{ d.version }} <span
        class="faded">· {{ d.by }}, {{ when(d.at) }}{{ d.remark ? `: ${d.remark}` : '' }}</span>
    <div><span :class="{ wrong: d.state === 'newer' }">{{ WORDS[d.state] }}</span>
      <button v-if="d.state !== 'taken' && bench.canEdit.value" class="link" data-test="take" @click="looking = d">Look at it</button>
    </div>
  </div>
  <ImportDialog v-if="looking" :document="looking" @close="looking = null" />
</template>

<style scoped>
.document { font-size: 12px; padding: 4px 0 4px 8px; border-left: 3px solid var(--rule); margin: 5px 0; }
.document.newer { border-color: var(--ochre); }
.document.taken { border-color: var(--moss); }
.link + .link, span + .link { margin-left: 12px; }
.wrong { margin: 0; }
</style>
