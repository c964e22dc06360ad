<script setup lang="ts">
/** Buttons of a view's tools in this stage, with the one for choosing and moving first. */
import { computed } from 'vue'
import { useWorkbench } from '@/composables/workbench'
import { useUi } from '@/stores/ui'
import type { Tool } from '@/tools/tool'

// eslint-disable-next-line @typescript-eslint/no-explicit-any
const props = defineProps<{ tools: Tool<any>[]; rest: string }>()
const bench = useWorkbench()
const ui = useUi()
const offered = computed(() => props.tools.filter((t) => t.stage === ui.stage && t.name && (bench.canEdit.value || t.looks)))
</script>

<template>
  <button v-if="offered.length" class="btn quiet" :class="{ on: !bench.desk.inHand.value }" :data-test="`tool-${rest.toLowerCase()}`"
      @click="bench.desk.layAway()">{{ rest }}</button>
  <button
    v-for="t in offered" :key="t.id" class="btn quiet" :class="{ on: ui.tool === t.id }" :disabled="t.ready && !t.ready()"
    :title="t.hint || undefined" :data-test="`tool-${t.id}`"
    @click="ui.tool = ui.tool === t.id ? '' : t.id"
  >{{ t.name }}</button>
  <slot />
</template>
