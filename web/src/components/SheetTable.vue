<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import type { SheetList } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
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
</script>

<template>
  <div v-if="bench.sheets.value && query.data.value" class="sheets">
    <ul>
      <li v-for="s in list" :key="`${s.kind}${s.number}`">
        <button :class="{ on: s.kind === chosen.kind && s.number === chosen.number }" :data-test="`sheet-${s.kind}-${s.number}`"
            @click="chosen = s; s.from !== null && bench.setMark(s.from)"><b>{{ s.title }}</b> <span
            class="faded">{{ s.more }}</span></button>
      </li>
    </ul>
    <div class="show">
      <div class="downloads">
        <a class="btn" :href="`${base}.pdf`" data-test="sheet-pdf">All as PDF</a><a class="btn"
            :href="`${base}.dxf?number=${chosen.number}`" data-test="sheet-dxf">This one as DXF</a><a class="btn"
            :href="`${base}.svg?number=${chosen.number}&download=1`" data-test="sheet-svg">This one as SVG</a>
        <span v-for="t in query.data.value.left_out" :key="t" class="faded">{{ t }}</span>
      </div>
      <img :src="`${base}.svg?number=${chosen.number}&key=${key}`" alt="The chosen sheet" data-test="sheet-image" />
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
img { flex: 1; min-height: 0; width: 100%; object-fit: contain; padding: 10px; }
.pad { padding: 14px; }
</style>
