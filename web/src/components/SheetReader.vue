<script setup lang="ts">
/** A sheet read on screen: zoom to paper detail at the pointer, pan, page by page. The drawing stays lines, so it is sharp at any zoom. */
import { useQuery } from '@tanstack/vue-query'
import { useElementSize } from '@vueuse/core'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { api } from '@/api/client'

const props = defineProps<{ address: string; page: number; pages: number }>()
const emit = defineEmits<{ turn: [by: number] }>()
const PX_PER_MM = 96 / 25.4 // at true size, as browsers count
const DEEPEST = 12 // times true size
const host = useTemplateRef<HTMLElement>('host')
const holder = useTemplateRef<HTMLElement>('holder')
const { width, height } = useElementSize(host)
const told = useQuery({
  queryKey: computed(() => ['sheet', props.address]),
  queryFn: () => api.text(props.address.replace(/^\/api/, '')),
  placeholderData: (before) => before,
})
const paper = ref({ width: 0, height: 0 })
/** mm of the paper at the host's upper left corner, and px a mm */
const view = ref({ x: 0, y: 0, scale: 1 })
const fitted = computed(() => Math.min((width.value - 20) / paper.value.width, (height.value - 20) / paper.value.height))
function fit() {
  const scale = fitted.value
  if (!(scale > 0) || !Number.isFinite(scale)) return
  view.value = { scale, x: (paper.value.width - width.value / scale) / 2, y: (paper.value.height - height.value / scale) / 2 }
}
const isFitted = computed(() => Math.abs(view.value.scale / fitted.value - 1) < 1e-3)
watch([() => told.data.value, holder], async ([text]) => {
  await nextTick()
  if (!text || !holder.value) return
  const root = new DOMParser().parseFromString(text, 'image/svg+xml').documentElement
  if (root.nodeName !== 'svg') return
  const box = root.getAttribute('viewBox')!.split(' ').map(Number)
  const other = paper.value.width !== box[2] || paper.value.height !== box[3]
  paper.value = { width: box[2]!, height: box[3]! }
  root.setAttribute('width', '100%')
  root.setAttribute('height', '100%')
  holder.value.replaceChildren(document.importNode(root, true))
  await nextTick()
  if (other) fit()
})
watch([width, height], (_, before) => {
  if (!before[0] || isFitted.value || view.value.scale < fitted.value) fit()
})
function zoom(factor: number, px = width.value / 2, py = height.value / 2) {
  const v = view.value
  const scale = Math.min(Math.max(v.scale * factor, fitted.value), DEEPEST * PX_PER_MM)
  if (scale <= fitted.value * 1.001) return fit()
  view.value = { scale, x: v.x + px / v.scale - px / scale, y: v.y + py / v.scale - py / scale }
}
function wheel(event: WheelEvent) {
  const box = host.value!.getBoundingClientRect()
  zoom(Math.exp(-event.deltaY * 0.0016), event.clientX - box.left, event.clientY - box.top)
}
const grabbed = ref<{ x: number; y: number } | null>(null)
function down(event: PointerEvent) {
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  grabbed.value = { x: event.clientX, y: event.clientY }
}
function move(event: PointerEvent) {
  if (!grabbed.value) return
  pan(grabbed.value.x - event.clientX, grabbed.value.y - event.clientY)
  grabbed.value = { x: event.clientX, y: event.clientY }
}
/** By so many px; some of the paper stays in sight. */
function pan(dx: number, dy: number) {
  const v = view.value
  const within = (at: number, size: number, room: number) => Math.min(Math.max(at, -0.8 * room), size - 0.2 * room)
  view.value = {
    ...v,
    x: within(v.x + dx / v.scale, paper.value.width, width.value / v.scale),
    y: within(v.y + dy / v.scale, paper.value.height, height.value / v.scale),
  }
}
const KEYS: Record<string, () => void> = {
  '+': () => zoom(1.25),
  '=': () => zoom(1.25),
  '-': () => zoom(0.8),
  '0': fit,
  ArrowLeft: () => pan(-60, 0),
  ArrowRight: () => pan(60, 0),
  ArrowUp: () => pan(0, -60),
  ArrowDown: () => pan(0, 60),
  PageDown: () => emit('turn', 1),
  PageUp: () => emit('turn', -1),
}
function key(event: KeyboardEvent) {
  const act = event.ctrlKey || event.altKey || event.metaKey ? undefined : KEYS[event.key]
  if (!act) return
  event.preventDefault()
  event.stopPropagation()
  act()
}
const place = computed(() => ({
  width: `${paper.value.width * view.value.scale}px`,
  height: `${paper.value.height * view.value.scale}px`,
  transform: `translate(${-view.value.x * view.value.scale}px, ${-view.value.y * view.value.scale}px)`,
}))
const percent = computed(() => Math.round((100 * view.value.scale) / PX_PER_MM))
</script>

<template>
  <div class="reader">
    <div class="bar">
      <button class="btn quiet" aria-label="Sheet before" title="Sheet before (PageUp)" :disabled="page <= 1" data-test="sheet-before"
          @click="$emit('turn', -1)">‹</button><span data-test="sheet-page">{{ page }} of {{ pages }}</span><button class="btn quiet"
          aria-label="Next sheet" title="Next sheet (PageDown)" :disabled="page >= pages" data-test="sheet-next"
          @click="$emit('turn', 1)">›</button>
      <span class="gap" />
      <button class="btn quiet" :class="{ on: isFitted }" data-test="sheet-fit" title="The whole sheet (0)" @click="fit">Whole</button>
      <button class="btn quiet" data-test="sheet-true" title="As large as on paper"
          @click="zoom(PX_PER_MM / view.scale)">Paper size</button>
      <button class="btn quiet" aria-label="Smaller" @click="zoom(0.8)">−</button><span class="percent"
          data-test="sheet-percent">{{ percent }} %</span><button class="btn quiet" aria-label="Larger" @click="zoom(1.25)">+</button>
    </div>
    <div ref="host" class="host" tabindex="0" role="img" :aria-label="`Sheet ${page} of ${pages}; wheel zooms, drag moves`"
        :class="{ grabbed }" data-test="sheet-image" :data-drawn="paper.width > 0" @wheel.prevent="wheel" @pointerdown="down"
        @pointermove="move" @pointerup="grabbed = null" @pointercancel="grabbed = null" @dblclick="zoom(2.5)" @keydown="key">
      <p v-if="told.isError.value" class="wrong" role="alert">{{ told.error.value?.message }}</p>
      <div ref="holder" class="paper" :class="{ old: told.isPlaceholderData.value }" :style="place" />
    </div>
  </div>
</template>

<style scoped>
.reader { flex: 1; min-height: 0; display: flex; flex-direction: column; }
.bar { display: flex; gap: 4px; align-items: center; padding: 2px 10px; font-size: 12px; background: var(--sheet); }
.gap { flex: 1; }
.percent { min-width: 44px; text-align: center; font-variant-numeric: tabular-nums; }
.host { position: relative; flex: 1; min-height: 0; overflow: hidden; cursor: grab; touch-action: none; }
.host.grabbed { cursor: grabbing; }
.host:focus-visible { outline: 2px solid var(--petrol); outline-offset: -2px; }
.paper { position: absolute; left: 0; top: 0; transform-origin: 0 0; background: #fff; box-shadow: 0 1px 6px #0002; }
.paper.old { opacity: 0.6; }
</style>
