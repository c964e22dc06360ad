<script setup lang="ts">
/** A group of the inspector under a heading that folds it. Who folds or opens one finds it so again on this computer. */
import { computed } from 'vue'
import { useLook } from '@/stores/look'

const props = defineProps<{ title: string; note?: string; count?: number; alarm?: boolean; shut?: boolean; test?: string }>()
const look = useLook()
const open = computed(() => look.folds[props.title] ?? !props.shut)
/** At the click, not at the element's later event: what is drawn anew in between would forget it. */
const turn = () => (look.folds = { ...look.folds, [props.title]: !open.value })
</script>

<template>
  <details :open="open">
    <summary :data-test="test" @click.prevent="turn">{{ title }}<b v-if="count" :class="{ some: alarm }">{{ count }}</b><small
        v-if="note">{{ note }}</small></summary>
    <slot v-if="open" />
  </details>
</template>

<style scoped>
details { border-top: 1px solid var(--rule); margin-top: 7px; padding-top: 7px; }
summary { cursor: pointer; font-family: var(--sign); font-weight: 600; font-size: 14px; margin-bottom: 4px; }
summary:hover { color: var(--petrol); }
b { margin-left: 6px; color: var(--faded); font-size: 12px; }
b.some { color: #fff; background: var(--madder); border-radius: 8px; padding: 0 7px; }
small { font-family: var(--face); font-weight: 400; font-size: 12px; color: var(--faded); margin-left: 6px; }
</style>
