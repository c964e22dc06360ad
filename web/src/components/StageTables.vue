<script setup lang="ts">
/** What stands in the lower view of a stage that has several: table or crossfall of the line, model or what varies along the road. */
import { computed } from 'vue'
import { useLook } from '@/stores/look'
import { useUi, type StageId, type ViewId } from '@/stores/ui'

const ui = useUi()
const look = useLook()
const KINDS: Partial<Record<StageId, [ViewId, string][]>> = {
  line: [
    ['table', 'PIs and elements'],
    ['crossfall', 'Crossfall'],
  ],
  road: [
    ['model', 'Model'],
    ['along', 'Along the road'],
  ],
}
const kinds = computed(() => KINDS[ui.stage] ?? [])
</script>

<template>
  <span v-if="kinds.length" class="kinds" role="group" aria-label="Lower view">
    <button v-for="[k, name] in kinds" :key="k" class="btn quiet" :class="{ on: look.lower[ui.stage] === k }"
        :aria-pressed="look.lower[ui.stage] === k" :data-test="`lower-${k}`"
        @click="look.lower = { ...look.lower, [ui.stage]: k }">{{ name }}</button>
  </span>
</template>

<style scoped>
.kinds { display: inline-flex; white-space: nowrap; }
</style>
