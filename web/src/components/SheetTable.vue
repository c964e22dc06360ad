<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import type { SheetList } from '@/api/types'
import SheetReader from '@/components/SheetReader.vue'
import { useWorkbench } from '@/composables/workbench'
import { counted } from '@/lib/words'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const query = useQuery({
  queryKey: computed(() => ['sheets', ui.roadId, bench.saved.value?.key, bench.project.value?.ledger.head]),
  queryFn: () => api.get<SheetList>(`/sheet-sets/${bench.sheets.value!.id}/sheets`),
  enabled: computed(() => !!bench.sheets.value && !!bench.saved.value?.levels),
})
const chosen = ref<{ kind: 'plan' | 'sections'; number: number }>({ kind: 'plan', number: 1 })
const base = computed(() => `/api/sheet-sets/${bench.sheets.value?.id}/${chosen.value.kind}`)
const key = computed(() => `${bench.saved.value?.key}-${bench.sheets.value?.revision}`)
const list = computed(() => [
  ...(query.data.value?.frames ?? []).map((f) => ({
    kind: 'plan' as const,
    number: f.number,
    title: `Plan and profile ${f.number}`,
    more: `${bench.station(f.from, 0)} to ${bench.station(f.to, 0)}`,
    from: f.from,
  })),
  ...Array.from({ length: query.data.value?.section_sheets ?? 0 }, (_, i) => ({
    kind: 'sections' as const,
    number: i + 1,
    title: `Cross sections ${i + 1}`,
    more: '',
    from: null,
  })),
])
const leftOut = computed(() => query.data.value?.left_out ?? [])
const at = computed(() => Math.max(list.value.findIndex((s) => s.kind === chosen.value.kind && s.number === chosen.value.number), 0))
function choose(s: (typeof list.value)[number]) {
  chosen.value = s
  if (s.from !== null) bench.setMark(s.from)
}
function turn(by: number) {
  const next = list.value[at.value + by]
  if (next) choose(next)
}
</script>

<template>
  <div v-if="bench.sheets.value && query.data.value" class="sheets">
    <ul>
      <li v-for="s in list" :key="`${s.kind}${s.number}`">
        <button :class="{ on: s.kind === chosen.kind && s.number === chosen.number }" :data-test="`sheet-${s.kind}-${s.number}`"
            @click="choose(s)"><b>{{ s.title }}</b> <span
            class="faded">{{ s.more }}</span></button>
      </li>
    </ul>
    <div class="show">
      <div class="downloads">
        <a class="btn" :href="`/api/sheet-sets/${bench.sheets.value.id}/all.pdf`" data-test="sheet-pdf">All as PDF</a><a class="btn"
            :href="`${base}.dxf?number=${chosen.number}`" data-test="sheet-dxf">This one as DXF</a><a class="btn"
            :href="`${base}.svg?number=${chosen.number}&download=1`" data-test="sheet-svg">This one as SVG</a>
        <details v-if="leftOut.length" class="left-out"><summary class="faded">{{ counted(leftOut.length, 'sheet') }} without all
          labels</summary><p v-for="t in leftOut" :key="t">{{ t }}</p></details>
      </div>
      <SheetReader :address="`${base}.svg?number=${chosen.number}&key=${key}`" :page="at + 1" :pages="list.length" @turn="turn" />
    </div>
  </div>
  <p v-else-if="query.isError.value" class="wrong pad">{{ query.error.value?.message }}</p>
  <p v-else-if="query.isFetching.value || (!bench.saved.value && bench.road.value)" class="faded pad" role="status"
      data-test="sheets-waiting">Cutting the sheets …</p>
  <p v-else class="faded pad">Sheets are cut along the road as soon as it has a line and a profile.</p>
</template>

<style scoped>
.sheets { display: grid; grid-template-columns: 236px 1fr; height: 100%; }
ul { list-style: none; margin: 0; padding: 6px 0; border-right: 1px solid var(--rule); overflow: auto; }
li button {
  width: 100%; border: 0; background: none; text-align: left; padding: 5px 12px; cursor: pointer; border-left: 3px solid transparent;
}
li button:hover, li button.on { background: var(--petrol-wash); }
li button.on { border-left-color: var(--petrol); }
.show { display: flex; flex-direction: column; min-width: 0; min-height: 0; background: #eee8da; }
.downloads {
  display: flex; gap: 6px; padding: 6px 10px; align-items: center; font-size: 12px; background: var(--sheet);
  border-bottom: 1px solid var(--rule);
}
.downloads a { text-decoration: none; color: inherit; }
.left-out { margin-left: auto; position: relative; }
.left-out summary { cursor: pointer; }
.left-out p { margin: 4px 0; max-width: 460px; }
.pad { padding: 14px; }
</style>
