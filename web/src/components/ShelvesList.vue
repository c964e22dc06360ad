<script setup lang="ts">
/** Everything in the project on its three shelves: what it is made from, what is made from it; renamed, deleted, put back. */
import { useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref } from 'vue'
import { api } from '@/api/client'
import type { Acted, ShelfRow } from '@/api/types'
import { when } from '@/lib/dates'
import { useWorkbench } from '@/composables/workbench'

const ImportDialog = defineAsyncComponent(() => import('@/components/ImportDialog.vue'))
const bench = useWorkbench()
const query = useQuery({
  queryKey: computed(() => ['shelves', bench.projectId, bench.project.value?.ledger.head]),
  queryFn: () => api.get<ShelfRow[]>(`/projects/${bench.projectId}/shelves`),
  placeholderData: (before) => before,
})
const SHELVES = [
  ['Received', 'as it came; never changed'],
  ['Worked', 'what the design makes'],
  ['Issued', 'given out; kept as it was'],
] as const
const WORD: Record<ShelfRow['kind'], string> = {
  file: 'file',
  survey: 'survey',
  surface: 'surface',
  part: 'part',
  structure: 'pavement structure',
  template: 'template',
  road: 'road',
  sheets: 'sheet set',
  issue: 'issue',
}
const chosen = ref('')
const again = ref<{ id: number; name: string } | null>(null)
const rows = computed(() => query.data.value ?? [])
const byId = computed(() => new Map(rows.value.map((r) => [r.id, r])))
const names = (ids: string[]) => ids.map((i) => byId.value.get(i)!)
const near = computed(() => {
  const r = byId.value.get(chosen.value)
  return r ? new Set([...r.made_from, ...r.made_into]) : new Set<string>()
})
const unused = (r: ShelfRow) => r.kind === 'survey' && !r.made_into.length
const surfaces = computed(() => bench.project.value?.surfaces ?? [])

const PATH: Partial<Record<ShelfRow['kind'], string>> = {
  survey: 'survey-sets',
  surface: 'surfaces',
  road: 'roads',
  template: 'templates',
  sheets: 'sheet-sets',
}
function rename(r: ShelfRow, event: Event) {
  const field = event.target as HTMLInputElement
  const name = field.value.trim()
  if (!name || name === r.name) return void (field.value = r.name)
  const path = `/${PATH[r.kind]}/${r.row}`
  const body = { revision: r.revision, name }
  void bench.act(() => (r.kind === 'template' || r.kind === 'sheets' ? api.put<Acted>(`${path}/name`, body) : api.patch<Acted>(path, body)))
}
const deletable = (r: ShelfRow) => ['survey', 'surface', 'road', 'template', 'sheets'].includes(r.kind)
const remove = (r: ShelfRow) => bench.act(() => api.delete<Acted>(`/${PATH[r.kind]}/${r.row}?revision=${r.revision}`))
function putBack(r: ShelfRow, event: Event) {
  const s = surfaces.value.find((x) => x.id === Number((event.target as HTMLSelectElement).value))
  if (s) void bench.change('surface', s.id, { sources: [...s.sources.map((q) => q.id), r.row] })
}
</script>

<template>
  <div class="shelves" data-test="shelves-list">
    <section v-for="[shelf, told] in SHELVES" :key="shelf" :aria-label="shelf">
      <h3>{{ shelf }} <small>{{ told }}</small></h3>
      <p v-if="!rows.some((r) => r.shelf === shelf)"
          class="faded">{{ shelf === 'Issued' ? 'Nothing has been issued yet. Sheets are issued in stage 8.' : 'Nothing yet.' }}</p>
      <article v-for="r in rows.filter((x) => x.shelf === shelf)" :key="r.id" :class="{ chosen: r.id === chosen, near: near.has(r.id) }"
          :data-test="`shelf-${r.id}`" tabindex="0" @click="chosen = r.id" @focusin="chosen = r.id">
        <div class="head">
          <span class="kind">{{ WORD[r.kind] }}</span>
          <input v-if="PATH[r.kind] && bench.canEdit.value" class="field name" :value="r.name"
              :aria-label="`Name of ${WORD[r.kind]} ${r.name}`" @change="rename(r, $event)"
              @keydown.enter="($event.target as HTMLInputElement).blur()" />
          <b v-else class="name" :title="r.sha256 ? `SHA-256 ${r.sha256}` : undefined">{{ r.name }}</b>
        </div>
        <div class="faded">{{ r.told }}{{ r.at ? `; ${when(r.at)}` : '' }}</div>
        <div v-if="r.made_from.length" class="links"><i>made from</i> {{ names(r.made_from).map((m) => m.name).join(', ') }}</div>
        <div v-if="r.made_into.length" class="links"><i>used by</i> {{ names(r.made_into).map((m) => m.name).join(', ') }}</div>
        <div v-else-if="r.kind === 'file' || r.kind === 'survey'" class="links">used by nothing</div>
        <a v-for="f in r.files" :key="f.id" class="file" :href="`/api/issues/${r.row}/files/${f.id}`">{{ f.name }}</a>
        <div v-if="bench.canEdit.value && (deletable(r) || unused(r) || r.kind === 'file')" class="acts">
          <select v-if="unused(r) && surfaces.length" class="field" aria-label="Add to a surface" @change="putBack(r, $event)"><option
              value="">Add to …</option><option v-for="s in surfaces" :key="s.id" :value="s.id">{{ s.name }}</option></select>
          <button v-if="r.kind === 'file'" class="link" :data-test="`again-${r.id}`"
              @click.stop="again = { id: r.row, name: r.name }">Read again</button>
          <button v-if="deletable(r)" class="link" :data-test="`delete-${r.id}`" @click.stop="remove(r)">Delete</button>
        </div>
      </article>
    </section>
    <ImportDialog v-if="again" :received="again" @close="again = null" />
  </div>
</template>

<style scoped>
.shelves { display: grid; grid-template-columns: repeat(3, 1fr); gap: 14px; align-items: start; }
section { display: grid; gap: 6px; }
h3 { font-family: var(--sign); font-size: 15px; font-weight: 600; margin: 0; border-bottom: 2px solid var(--ink); padding-bottom: 3px; }
h3 small { font-family: var(--face); font-size: 11px; font-weight: 400; color: var(--faded); margin-left: 4px; }
article { border: 1px solid var(--rule); border-radius: 4px; padding: 5px 8px; font-size: 12px; display: grid; gap: 2px; }
article.chosen { border-color: var(--petrol); }
article.near { background: var(--petrol-wash); }
.head { display: grid; gap: 0; }
.kind { font-size: 11px; color: var(--faded); }
.name { font-weight: 600; overflow-wrap: anywhere; }
input.name { border-color: transparent; min-height: 22px; padding: 0 4px; margin-left: -5px; flex: 1; background: none; }
input.name:hover, input.name:focus { border-color: var(--rule); background: #fff; }
.links i { font-style: normal; color: var(--faded); }
.file { color: var(--petrol); overflow-wrap: anywhere; }
.acts { display: flex; justify-content: flex-end; gap: 8px; align-items: center; }
.acts .field { width: 120px; min-height: 24px; padding: 1px 4px; }
@media (max-width: 760px) { .shelves { grid-template-columns: 1fr; } }
</style>
