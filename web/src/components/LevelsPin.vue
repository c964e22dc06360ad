<script setup lang="ts">
/** Whether the levels of a return follow from its roads or are pinned, and the way back. */
import { computed } from 'vue'
import { api } from '@/api/client'
import type { Acted } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
/** Known once the road's own design is there; until then neither is said, and neither can be done. */
const known = computed(() => bench.road.value?.course.kind === 'return' && bench.design.value !== null)
const follows = computed(() => bench.design.value?.levels_follow ?? false)
const change = () =>
  bench.act(() => (follows.value ? api.post<Acted>(`/roads/${ui.roadId}/pin`) : api.delete<Acted>(`/roads/${ui.roadId}/pin`)))
</script>

<template>
  <span v-if="known" class="pin" :class="{ pinned: !follows }" data-test="levels-pin">{{ follows ? 'levels follow' : 'levels pinned' }}
    <button v-if="bench.canEdit.value" class="btn quiet" data-test="levels-pin-change"
        :title="follows ? 'Keep these levels when the roads move' : 'Take the levels from both roads again'"
        @click="change">{{ follows ? 'Pin' : 'Let follow' }}</button></span>
</template>

<style scoped>
.pin { color: var(--petrol); font-weight: 600; }
.pinned { color: var(--ochre-text); }
.pin .btn { padding: 0 5px; min-height: 22px; }
</style>
