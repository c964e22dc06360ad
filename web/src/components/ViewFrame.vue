<script setup lang="ts">
/** The frame of a view: title, its tools, what it tells at the right, and a grey edge with a reason while its content is not current. */
import { onClickOutside, useElementSize, useMutationObserver } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { useUi, type ViewId } from '@/stores/ui'

const props = defineProps<{ id: ViewId; title: string; notice?: string }>()
const ui = useUi()
const active = computed(() => ui.activeView === props.id)
/** Tools that find no room in the strip stand in a menu under it. */
const strip = useTemplateRef<HTMLElement>('strip')
const told = useTemplateRef<HTMLElement>('told')
const head = useTemplateRef<HTMLElement>('head')
const { width } = useElementSize(head)
const folded = ref(false)
const open = ref(false)
async function measure() {
  await nextTick()
  const own = strip.value
  if (!own || open.value) return
  const needed = [...own.children].reduce((sum, c) => sum + (c as HTMLElement).offsetWidth + 2, -2)
  // of what is told only the last thing must stand; what the pointer reads comes and goes, and is cut where there is no room
  const last = told.value ? ((told.value.lastElementChild as HTMLElement | null)?.offsetWidth ?? 0) : 0
  if (told.value) told.value.style.minWidth = `${last}px`
  const beside = [...head.value!.children].filter((c) => c !== own && c !== told.value && !c.hasAttribute('data-more'))
  const room = head.value!.clientWidth - 12 - beside.reduce((sum, c) => sum + (c as HTMLElement).offsetWidth + 4, last + 4)
  folded.value = needed > room + 1
}
watch([width, open, () => ui.stage, () => ui.tool, () => ui.roadId], measure, { immediate: true })
useMutationObserver(strip, measure, { childList: true, subtree: true, characterData: true }) // tools that come with what is loaded
onClickOutside(strip, () => (open.value = false), { ignore: ['[data-more]'] })
/** Whoever comes by keyboard to a tool that is folded away sees it. */
function reach(event: FocusEvent) {
  const own = strip.value!
  const down = (event.target as HTMLElement).getBoundingClientRect().top - own.getBoundingClientRect().top + own.scrollTop
  if (folded.value && down > own.clientHeight - 4) open.value = true
}
function alone() {
  ui.solo = ui.solo === props.id ? null : props.id
}
</script>

<template>
  <section class="view" :class="{ active, stale: notice }" :aria-label="title" :data-test="`view-${id}`"
      @pointerdown.capture="ui.activeView = id" @focusin="ui.activeView = id">
    <header ref="head">
      <h3 title="Double-click or F: only this view, and back" @dblclick="alone">{{ title }}</h3>
      <div ref="strip" class="tools" :class="{ open }" @focusin="reach" @keydown.esc="open = false"
          @scroll="!open && strip && (strip.scrollTop = 0)"><slot name="tools" /></div>
      <button v-if="folded" class="btn quiet more" data-more :aria-expanded="open" aria-label="More tools" title="More tools"
          :data-test="`more-${id}`" @click="open = !open">⋯</button>
      <div ref="told" class="told"><slot name="told" /></div>
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
  display: flex; align-items: center; gap: 4px; padding: 1px 2px 1px 10px; border-bottom: 1px solid var(--rule); height: 33px;
  flex: none;
}
h3 { white-space: nowrap; margin-right: 4px; cursor: default; user-select: none; }
.tools { display: flex; flex-wrap: wrap; gap: 2px; align-items: center; flex: 0 1 auto; min-width: 0; max-height: 30px; overflow: hidden; }
.tools.open {
  max-height: none; overflow: visible; background: var(--sheet); box-shadow: 0 4px 14px #0003; border-radius: 4px; padding: 2px 4px 6px;
  position: relative; z-index: 6; align-self: start;
}
.more { padding: 0 7px; min-height: 24px; }
.told {
  flex: 0 1000 auto; max-width: 46%; margin-left: auto; color: var(--faded); font-size: 12px; white-space: nowrap; display: flex; gap: 12px; overflow: hidden;
  justify-content: flex-end;
}
/* without a word told the button stands at the right all the same */
.told:empty { display: none; }
.told:empty ~ .solo { margin-left: auto; }
.solo { color: var(--faded); padding: 0 6px; min-height: 24px; }
/* lies over the view: what is drawn must not move while it is dragged; a view keeps what stands at its top free by these */
.notice {
  position: absolute; inset: 0 var(--free-right, 0) auto var(--free-left, 0); margin: 0; padding: 5px 10px;
  background: var(--madder-wash); color: var(--madder); font-size: 12px; pointer-events: none;
}
.body { position: relative; flex: 1; min-height: 0; min-width: 0; overflow: hidden; }
</style>
