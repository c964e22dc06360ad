<script setup lang="ts">
/** The finished ground: exact volumes in all and by piece, what is left out, and files of it. */
import { computed } from 'vue'
import FindingCard from '@/components/FindingCard.vue'
import FoldGroup from '@/components/FoldGroup.vue'
import { useFinished } from '@/composables/useFinished'
import { useWorkbench } from '@/composables/workbench'
import { bareArea, bareVolume, sayVolume, units } from '@/lib/units'

const bench = useWorkbench()
const finished = useFinished(bench)
const told = computed(() => finished.told.data.value ?? null)
/** A row a road or junction, whatever it is made of. */
const rows = computed(() => {
  const by = new Map<string, { name: string; area: number; cut: number; fill: number }>()
  for (const p of told.value?.pieces ?? []) {
    const r = by.get(p.name) ?? { name: p.name, area: 0, cut: 0, fill: 0 }
    by.set(p.name, { name: p.name, area: r.area + p.area, cut: r.cut + p.cut, fill: r.fill + p.fill })
  }
  return [...by.values()]
})
const OUT = [
  ['landxml', 'LandXML'],
  ['dxf', 'DXF'],
  ['glb', 'GLB'],
  ['grid', 'Grid'],
] as const
</script>

<template>
  <FoldGroup title="Finished ground">
    <p v-if="!told" class="faded">{{ finished.told.error.value?.message ?? 'Being made …' }}</p>
    <template v-else>
      <div class="value"><span>Cut, exact</span><b data-test="finished-cut">{{ sayVolume(told.cut, 0) }}</b></div>
      <div class="value"><span>Fill, exact</span><b data-test="finished-fill">{{ sayVolume(told.fill, 0) }}</b></div>
      <table class="grid" aria-label="Pieces of the finished ground">
        <thead><tr><th>Piece</th><th class="num">{{ units.area }}</th><th class="num">Cut</th><th class="num">Fill</th></tr></thead>
        <tbody><tr v-for="p in rows" :key="p.name"><td :title="p.name">{{ p.name }}</td><td
            class="num">{{ bareArea(p.area, 0) }}</td><td class="num">{{ bareVolume(p.cut, 0) }}</td><td
            class="num">{{ bareVolume(p.fill, 0) }}</td></tr></tbody>
      </table>
      <p v-for="w in told.left_out" :key="w" class="wrong" role="alert">{{ w }}</p>
      <FindingCard v-for="f in told.findings" :key="f.sentence + String(f.place)" :finding="f" />
      <div class="actions"><a v-for="[kind, name] in OUT" :key="kind" class="btn"
          :href="`/api/surfaces/${finished.surface.value}/finished/out/${kind}`" :data-test="`finished-${kind}`">{{ name }}</a></div>
    </template>
  </FoldGroup>
</template>

<style scoped>
.grid { width: 100%; table-layout: fixed; }
.grid td:first-child { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.grid th:first-child { width: 46%; }
.actions a { text-decoration: none; color: inherit; }
</style>
