<script setup lang="ts">
/** The short list of what lies under the pointer, where that is more than one thing. */
import { useTemplateRef } from 'vue'
import type { Thing, useUnder } from '@/tools/under'

const props = defineProps<{ under: ReturnType<typeof useUnder> }>()
const box = useTemplateRef<HTMLElement>('box')
function step(event: KeyboardEvent) {
  const buttons = [...(box.value?.querySelectorAll('button') ?? [])]
  const at = buttons.indexOf(document.activeElement as HTMLButtonElement)
  buttons[(at + (event.key === 'ArrowDown' ? 1 : buttons.length - 1)) % buttons.length]?.focus()
}
function choose(thing: Thing) {
  thing.choose()
  props.under.close()
}
</script>

<template>
  <div
    v-if="under.list.value" ref="box" class="under" role="menu" aria-label="What lies here" data-test="under"
    :style="{ left: `${under.list.value.x + 10}px`, top: `${under.list.value.y + 6}px` }"
    @keydown.esc.stop="under.close()" @keydown.up.prevent.stop="step" @keydown.down.prevent.stop="step"
  >
    <button v-for="t in under.list.value.things" :key="t.id" role="menuitem" :data-test="`under-${t.id}`"
        @click="choose(t)">{{ t.words }}</button>
  </div>
</template>

<style scoped>
.under {
  position: absolute; z-index: 6; display: grid; min-width: 110px; background: #fff; border: 1px solid var(--rule); border-radius: 6px;
  box-shadow: 0 3px 12px #0003; padding: 3px;
}
button { text-align: left; border: 0; background: none; padding: 3px 8px; font-size: 12px; border-radius: 4px; cursor: pointer; }
button:hover, button:focus-visible { background: var(--paper); outline: none; }
</style>
