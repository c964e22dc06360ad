<script setup lang="ts">
/** Everything that was done, page by page; an entry opens to what each value was and became. */
import { useInfiniteQuery, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import type { LedgerChange, LedgerPage } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
import { when } from '@/lib/dates'

const bench = useWorkbench()
const address = `/projects/${bench.projectId}/ledger`
const query = useInfiniteQuery({
  queryKey: computed(() => ['ledger', bench.projectId, bench.project.value?.ledger.head]),
  queryFn: ({ pageParam }) => api.get<LedgerPage>(address + (pageParam ? `?before=${pageParam}` : '')),
  initialPageParam: 0,
  getNextPageParam: (page: LedgerPage, pages: LedgerPage[]) =>
    pages.reduce((n, p) => n + p.lines.length, 0) < page.count ? page.lines.at(-1)?.id : undefined,
})
const lines = computed(() => query.data.value?.pages.flatMap((p) => p.lines) ?? [])
const count = computed(() => query.data.value?.pages[0]?.count ?? 0)
const opened = ref<number | null>(null)
const changes = useQuery({
  queryKey: computed(() => ['ledger-entry', bench.projectId, opened.value]),
  queryFn: () => api.get<LedgerChange[]>(`${address}/${opened.value}`),
  enabled: computed(() => opened.value !== null),
})
</script>

<template>
  <p class="faded">Everything done in this project. You undo your own acts; what somebody else changed since is not touched.</p>
  <table class="grid" data-test="ledger-list">
    <tbody>
      <template v-for="r in lines" :key="r.id">
        <tr :class="r.state"><td><button class="link" :aria-expanded="opened === r.id" data-test="ledger-open"
            @click="opened = opened === r.id ? null : r.id">{{ r.label }}</button></td><td>{{ r.by }}</td><td
            class="faded">{{ when(r.at) }}</td><td class="faded">{{ r.state === 'done' ? '' : 'undone' }}</td></tr>
        <tr v-if="opened === r.id"><td colspan="4" class="changes" data-test="ledger-changes">
          <p v-if="changes.isPending.value" class="faded">Loading …</p>
          <p v-for="(c, i) in changes.data.value" :key="i">{{ c.of }}<template v-if="c.value">, {{ c.value }}: {{ c.before }} →
            {{ c.after }}</template><template v-else> {{ c.after }}</template></p>
        </td></tr>
      </template>
      <tr v-if="query.isSuccess.value && !lines.length"><td class="faded">Nothing has been done yet.</td></tr>
    </tbody>
  </table>
  <p v-if="lines.length" class="faded">{{ lines.length }} of {{ count }} <button v-if="query.hasNextPage.value" class="link"
      data-test="ledger-more" :disabled="query.isFetchingNextPage.value" @click="query.fetchNextPage()">Show older ones</button></p>
</template>

<style scoped>
.undone td:first-child .link, .dropped td:first-child .link { text-decoration: line-through; color: var(--faded); }
td:first-child { white-space: normal; }
td .link { text-align: left; color: var(--ink); }
.changes { background: var(--paper); font-size: 12px; }
.changes p { margin: 2px 0 2px 12px; }
</style>
