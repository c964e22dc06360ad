<script setup lang="ts">
/** The finished ground: what is left out of it, what is doubtful, and files of it. */
import { computed } from 'vue'
import FindingCard from '@/components/FindingCard.vue'
import FoldGroup from '@/components/FoldGroup.vue'
import { useFinished } from '@/composables/useFinished'
import { useWorkbench } from '@/composables/workbench'

const bench = useWorkbench()
const finished = useFinished(bench)
const told = computed(() => finished.told.data.value ?? null)
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
      <p v-for="w in told.left_out" :key="w" class="wrong" role="alert">{{ w }}</p>
      <FindingCard v-for="f in told.findings" :key="f.sentence + String(f.place)" :finding="f" />
      <div class="actions"><a v-for="[kind, name] in OUT" :key="kind" class="btn"
          :href="`/api/surfaces/${finished.surface.value}/finished/out/${kind}`" :data-test="`finished-${kind}`">{{ name }}</a></div>
    </template>
  </FoldGroup>
</template>

<style scoped>
.actions a { text-decoration: none; color: inherit; }
</style>
