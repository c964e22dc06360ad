<script setup lang="ts">
/** The part bench: the row of parts, the large drawing over a trial ground, the usual grounds beneath it. */
import { ref } from 'vue'
import BenchDrawing from '@/components/bench/BenchDrawing.vue'
import GroundThumbs from '@/components/bench/GroundThumbs.vue'
import LibraryGrid from '@/components/bench/LibraryGrid.vue'
import PartRow from '@/components/bench/PartRow.vue'
import EmptyNote from '@/components/EmptyNote.vue'
import ViewFrame from '@/components/ViewFrame.vue'
import { useWorkbench } from '@/composables/workbench'

const bench = useWorkbench()
const shop = bench.partBench
const library = ref(false)
</script>

<template>
  <ViewFrame id="bench" title="Part bench" :notice="shop.problem.value">
    <template #tools><PartRow v-model:library="library" part="head" /></template>
    <div class="bench">
      <PartRow v-model:library="library" part="row" />
      <LibraryGrid v-if="library" @close="library = false" />
      <template v-else-if="shop.subject.value">
        <BenchDrawing />
        <GroundThumbs />
      </template>
      <EmptyNote v-else text="There is no template yet. A template is a row of parts, from the middle outward; the first road brings one."
          :action="bench.canEdit.value ? 'New template' : ''" @go="shop.newTemplate('Template')" />
    </div>
  </ViewFrame>
</template>

<style scoped>
.bench { position: absolute; inset: 0; display: flex; flex-direction: column; min-height: 0; }
</style>
