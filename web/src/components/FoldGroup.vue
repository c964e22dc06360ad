<script setup lang="ts">
/** A group of values in the inspector under a heading that folds it; what is folded stays so on this computer. */
import { computed, useId } from 'vue'
import { useUi } from '@/stores/ui'

const props = defineProps<{ title: string; note?: string }>()
const ui = useUi()
const id = useId()
const open = computed(() => !ui.folded.includes(props.title))
function turn() {
  ui.folded = open.value ? [...ui.folded, props.title] : ui.folded.filter((t) => t !== props.title)
}
</script>

<template>
  <section class="group">
    <h3><button :aria-expanded="open" :aria-controls="id" @click="turn"><span class="sign" aria-hidden="true">{{ open ? '▾' : '▸' }}</span>{{ title }}<small v-if="note">{{ note }}</small></button></h3>
    <div v-if="open" :id="id" class="inside"><slot /></div>
  </section>
</template>

<style scoped>
.group { border-top: 1px solid var(--rule); margin-top: 10px; padding-top: 4px; }
h3 { font-size: 13px; }
h3 button { display: flex; gap: 6px; align-items: baseline; width: 100%; border: 0; background: none; font: inherit; color: inherit; padding: 4px 0; text-align: left; cursor: pointer; }
h3 button:hover { color: var(--petrol); }
.sign { color: var(--faded); font-size: 11px; width: 9px; }
small { margin-left: auto; font-weight: 400; color: var(--faded); }
.inside { padding-bottom: 2px; }
</style>
