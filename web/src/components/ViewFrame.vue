<script setup lang="ts">
/** The frame of a view: title, its tools, what it tells at the right, and a grey edge with a reason while its content is not current. */
import { computed } from 'vue'
import { useUi, type ViewId } from '@/stores/ui'

const props = defineProps<{ id: ViewId; title: string; notice?: string }>()
const ui = useUi()
const active = computed(() => ui.activeView === props.id)
function alone() {
  ui.solo = ui.solo === props.id ? null : props.id
}
</script>

<template>
  <section class="view" :class="{ active, stale: notice }" :aria-label="title" :data-test="`view-${id}`"
      @pointerdown.capture="ui.activeView = id" @focusin="ui.activeView = id">
    <header>
      <h3 title="Double-click or F: only this view, and back" @dblclick="alone">{{ title }}</h3>
      <div class="tools"><slot name="tools" /></div>
      <div class="told"><slot name="told" /></div>
      <button class="btn quiet solo" :aria-label="ui.solo === id ? 'Show all views' : `Show only ${title}`"
          :title="ui.solo === id ? 'All views (F)' : 'Only this view (F)'" @click="alone">
        {{ ui.solo === id ? '◱' : '□' }}
      </button>
    </header>
    <div class="body">
      <slot />
      <p v-if="notice" class="notice" role="status" :data-test="`notice-${id}`">{{ notice }}</p>
    </div>
  </section>
</template>

<style scoped>
.view {
  background: var(--sheet); border: 1px solid var(--rule); border-radius: 4px; display: flex; flex-direction: column; min-width: 0;
  min-height: 0; overflow: hidden;
}
.view.active { border-color: #b9ac92; }
.view.stale { box-shadow: inset 0 0 0 3px #c9cdd0; }
header {
  display: flex; align-items: center; gap: 8px; padding: 2px 2px 2px 10px; border-bottom: 1px solid var(--rule); min-height: 32px;
  flex: none;
}
h3 { white-space: nowrap; cursor: default; user-select: none; }
.tools { display: flex; gap: 2px; align-items: center; flex: none; }
.told {
  flex: 1; min-width: 0; color: var(--faded); font-size: 12px; white-space: nowrap; display: flex; gap: 12px; overflow: hidden;
  justify-content: flex-end;
}
.solo { color: var(--faded); padding: 0 6px; min-height: 24px; }
/* lies over the view: what is drawn must not move while it is dragged */
.notice {
  position: absolute; inset: 0 0 auto; margin: 0; padding: 5px 10px; background: var(--madder-wash); color: var(--madder);
  font-size: 12px; pointer-events: none;
}
.body { position: relative; flex: 1; min-height: 0; min-width: 0; overflow: hidden; }
</style>
