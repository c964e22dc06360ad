<script setup lang="ts">
/** What is written into a drawn section, chosen in a small menu. */
import type { SectionShow } from '@/lib/sectionTexts'

const shown = defineModel<SectionShow>({ required: true })
const TEXTS = ['names', 'slopes', 'widths', 'levels', 'layers'] as const
</script>

<template>
  <details class="shows">
    <summary class="btn quiet" data-test="section-show">Show</summary>
    <div>
      <label v-for="t in TEXTS" :key="t"><input v-model="shown[t]" type="checkbox" :data-test="`show-${t}`" /> {{ t }}</label>
      <slot />
    </div>
  </details>
</template>

<style scoped>
.shows { position: relative; font-size: 12px; }
.shows summary { list-style: none; }
.shows div {
  position: absolute; right: 0; top: 100%; z-index: 3; background: var(--sheet); border: 1px solid var(--rule); border-radius: 4px;
  padding: 6px 10px; display: grid; gap: 4px; white-space: nowrap; box-shadow: 0 2px 8px #0002;
}
</style>
