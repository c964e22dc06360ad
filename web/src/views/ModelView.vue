<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useElementSize, useIntervalFn } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { api } from '@/api/client'
import EmptyNote from '@/components/EmptyNote.vue'
import StageTables from '@/components/StageTables.vue'
import ViewFrame from '@/components/ViewFrame.vue'
import { useBuiltBeside } from '@/composables/useBuiltBeside'
import { useFinished } from '@/composables/useFinished'
import { useGround } from '@/composables/useGround'
import { useWorkbench } from '@/composables/workbench'
import type { ModelScene } from '@/canvas/model/scene'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const look = useLook()
const host = useTemplateRef<HTMLElement>('host')
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const { width, height } = useElementSize(host)
const scene = shallowRef<ModelScene | null>(null)
const mode = ref<'overview' | 'along'>('overview')
const wrong = ref('')
const EYE = 1.08 // m, driver's eye

const query = useQuery({
  queryKey: computed(() => ['model', ui.roadId, bench.saved.value?.key]),
  queryFn: () => api.geometry(`/roads/${ui.roadId}/model`),
  enabled: computed(() => !!bench.saved.value?.earthwork),
  structuralSharing: false,
  placeholderData: (before) => before,
})

watch(
  [canvas, width],
  async ([c]) => {
    if (!c || scene.value || width.value < 10) return
    try {
      const { makeScene } = await import('@/canvas/model/scene')
      if (!canvas.value || scene.value) return // gone, or made meanwhile
      scene.value = makeScene(canvas.value)
    } catch {
      wrong.value = 'This browser cannot draw in 3D (WebGL is not available). All other views work without it.'
    }
  },
  { immediate: true },
)
watch([scene, width, height], ([s]) => s?.resize(width.value, height.value))
watch([scene, bench.terrain], ([s, t], before) => {
  s?.setGround(t)
  if (s && t && (!before?.[0] || !before[1]) && ofGround.value) s.overview(true)
})
const ofGround = computed(() => ui.stage === 'ground' || !bench.saved.value?.earthwork)
watch([scene, () => look.modelEdges], ([s, wanted]) => s?.showEdges(wanted), { immediate: true })
const ground = useGround(bench)
watch([scene, ground.lines, () => look.shown.mapping, () => ({ ...look.hiddenLayers })], ([s, lines, shown, hidden]) =>
  s?.setMapping(shown ? lines : null, (layer) => !hidden[layer]),
)
watch([scene, bench.others], ([s, others]) => s?.setOthers(others))
const finished = useFinished(bench)
watch([scene, finished.geometry], ([s, whole]) => s?.setFinished(whole))
watch([scene, finished.nearGeometry], ([s, part]) => s?.setFinishedNear(part))
watch([scene, () => ui.goTo, () => finished.geometry.value !== null], ([s, to]) => to?.span && s?.lookAt(to.e, to.n, to.span))
const beside = useBuiltBeside(bench)
watch([scene, beside], ([s, roads]) => s?.setBeside(roads))
/** A click that turned nothing, on another road: that road becomes the active one. */
const pressed = ref<{ x: number; y: number } | null>(null)
function up(event: PointerEvent) {
  const still = pressed.value && Math.hypot(event.clientX - pressed.value.x, event.clientY - pressed.value.y) < 4
  const box = canvas.value!.getBoundingClientRect()
  const other = still && event.button === 0 ? scene.value?.otherAt(event.clientX - box.left, event.clientY - box.top) : null
  if (other) ui.roadId = other.road_id
}
watch([scene, () => query.data.value], ([s, road], before) => {
  if (!s) return
  s.setRoad(bench.saved.value?.earthwork ? (road ?? null) : null, bench.road.value?.course.kind !== 'return')
  if (mode.value === 'along') stand()
  else if (!before?.[1] || !before?.[0]) s.overview(ofGround.value)
})
const rows = computed(() => {
  const c = query.data.value?.floats.centre
  return c ? Array.from({ length: c.length / 5 }, (_, i) => c[5 * i]!) : []
})
function stand() {
  const i = rows.value.findIndex((s) => s >= ui.mark - 1e-3)
  scene.value?.stand(i < 0 ? rows.value.length - 1 : i, EYE)
}
watch(
  () => ui.mark,
  () => mode.value === 'along' && stand(),
)
function along() {
  mode.value = 'along'
  stand()
}
function over() {
  pause()
  mode.value = 'overview'
  scene.value?.overview(ofGround.value)
}
const speed = computed(() => (bench.project.value?.settings.design_speed ?? 80) / 3.6)
const STEP = 120 // ms between pictures of the drive
const { pause, resume, isActive } = useIntervalFn(
  () => {
    if (ui.mark >= bench.limits.value[1] - 1) return pause()
    bench.setMark(ui.mark + (speed.value * STEP) / 1000)
  },
  STEP,
  { immediate: false },
)
function drive() {
  along()
  if (isActive.value) pause()
  else resume()
}
onBeforeUnmount(() => {
  pause()
  scene.value?.dispose()
})
</script>

<template>
  <ViewFrame id="model" title="Model" :notice="wrong || bench.problems.value.road?.sentence">
    <template #tools><StageTables />
      <button class="btn quiet" :class="{ on: mode === 'overview' }" data-test="model-over" @click="over">From above</button>
      <button class="btn quiet" :class="{ on: mode === 'along' && !isActive }" data-test="model-along" :disabled="!rows.length"
          @click="pause(); along()">Look along</button>
      <button class="btn quiet" :class="{ on: isActive }" :disabled="!rows.length" @click="drive">{{ isActive ? 'Stop' : 'Drive' }}</button>
      <button class="btn quiet" :class="{ on: look.modelEdges }" :aria-pressed="look.modelEdges" :disabled="!rows.length"
          data-test="model-edges" @click="look.modelEdges = !look.modelEdges">Edge lines</button>
    </template>
    <template #told><span v-if="mode === 'along'">{{ bench.station(ui.mark) }}</span></template>
    <div ref="host" class="host" :data-drawn="!!query.data.value">
      <canvas ref="canvas" data-test="model-canvas" @pointerdown="pressed = { x: $event.clientX, y: $event.clientY }" @pointerup="up" />
      <EmptyNote v-if="bench.project.value && bench.settled.value && !bench.design.value?.earthwork && ui.stage !== 'ground'"
          text="The model stands here once the road has a line, a profile, a template and ground." />
    </div>
  </ViewFrame>
</template>

<style scoped>
.host, canvas { position: absolute; inset: 0; width: 100%; height: 100%; }
</style>
