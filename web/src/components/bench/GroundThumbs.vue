<script setup lang="ts">
/** The usual grounds with the template computed on each; a click lays it under the drawing. */
import { useWorkbench } from '@/composables/workbench'
import SmallDrawing from './SmallDrawing.vue'

const shop = useWorkbench().partBench
</script>

<template>
  <div class="thumbs" role="group" aria-label="Usual grounds">
    <button v-for="t in shop.answer.value?.thumbs ?? []" :key="t.name" class="thumb" :class="{ on: shop.groundKind.value === t.name }"
        :aria-pressed="shop.groundKind.value === t.name" :data-test="`ground-${t.name}`" @click="shop.groundKind.value = t.name">
      <span>{{ t.name }}</span>
      <SmallDrawing :lines="t.picture.lines" :areas="t.picture.areas" :width="104" :height="38" />
    </button>
  </div>
</template>

<style scoped>
.thumbs { display: flex; gap: 6px; padding: 6px 8px; border-top: 1px solid var(--rule); overflow-x: auto; flex: none; }
.thumb {
  border: 1px solid var(--rule); border-radius: 4px; background: var(--sheet); padding: 2px 4px; cursor: pointer; flex: 1 0 84px;
  text-align: left; color: var(--faded); font-size: 12px; min-width: 0; overflow: hidden;
}
.thumb:hover { background: var(--petrol-wash); }
.thumb.on { border-color: var(--petrol); background: var(--petrol-wash); color: var(--petrol); }
</style>
