<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api } from '@/api/client'
import type { LedgerLine } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'

const bench = useWorkbench()
const query = useQuery({
  queryKey: computed(() => ['ledger', bench.projectId, bench.project.value?.ledger.head]),
  queryFn: () => api.get<LedgerLine[]>(`/projects/${bench.projectId}/ledger`),
})
const when = (at: string) => new Date(at).toLocaleString(undefined, { dateStyle: 'short', timeStyle: 'short' })
</script>

<template>
  <p class="faded">Everything done in this project. You undo your own acts; what somebody else changed since is not touched.</p>
  <table class="grid" data-test="ledger-list">
    <tbody>
      <tr v-for="r in query.data.value" :key="r.id" :class="r.state"><td>{{ r.label }}</td><td>{{ r.by }}</td><td
          class="faded">{{ when(r.at) }}</td><td class="faded">{{ r.state === 'done' ? '' : 'undone' }}</td></tr>
      <tr v-if="query.data.value?.length === 0"><td class="faded">Nothing has been done yet.</td></tr>
    </tbody>
  </table>
</template>

<style scoped>
.undone td:first-child, .dropped td:first-child { text-decoration: line-through; color: var(--faded); }
td:first-child { white-space: normal; }
</style>
