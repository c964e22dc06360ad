<script setup lang="ts">
/** What lies over the plan in the ground stage: the chosen point, label paths with their labels, water, a drawn line. */
import { computed } from 'vue'
import { toScreen, type ViewTransform } from '@/canvas/shared/viewTransform'
import type { Ground } from '@/composables/useGround'
import type { usePlanPointer } from '@/composables/usePlanPointer'
import { sayLength, units } from '@/lib/units'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'

const props = defineProps<{ view: ViewTransform; ground: Ground; on: ReturnType<typeof usePlanPointer>; editing: boolean }>()
const ui = useUi()
const look = useLook()
const screen = (e: number, n: number) => toScreen(props.view, e, n)
const text = (path: readonly (readonly [number, number, ...unknown[]])[]) => path.map((p) => screen(p[0], p[1]).join(',')).join(' ')
const { work, grips } = props.on
const heldAt = (id: string) => (grips.held.value?.id === id ? grips.held.value.at : null)
const paths = computed(() =>
  (props.ground.surface.value?.label_paths ?? []).map((p, i) => p.map((v, k) => heldAt(grips.knotId(i, k)) ?? v)),
)
const APART = 22 // px between labels
const labels = computed(() =>
  apart(
    props.ground.labels.value
      .map((la) => {
        const [x, y] = screen(la.e, la.n)
        let angle = (la.azimuth * 180) / Math.PI - 90
        if (angle < -90) angle += 180
        return { x, y, angle, text: (la.level / units.value.metre).toFixed(look.contours.labelDecimals) }
      })
      .filter((la) => la.x > -20 && la.y > -20 && la.x < props.view.width + 20 && la.y < props.view.height + 20),
  ),
)
/** As many as can be read: one too near to the last that is shown is left out. */
function apart<T extends { x: number; y: number }>(all: T[]): T[] {
  let last: T | null = null
  return all.filter((la) => {
    const room = !last || Math.hypot(la.x - last.x, la.y - last.y) >= APART
    if (room) last = la
    return room
  })
}
const chosen = computed(() => {
  const p = grips.pick.value
  if (!p || ui.stage !== 'ground') return null
  const [e, n] = heldAt('pick') ?? p.place
  return screen(e, n)
})
</script>

<template>
  <g>
    <template v-if="work.gathered.value">
      <polygon v-for="(r, i) in work.gathered.value.rings" :key="i" :points="text(r)" class="gathered" />
      <g v-for="p in work.gathered.value.ponds" :key="p.place.join()" class="pond"
          :transform="`translate(${screen(...p.place).join(' ')})`"><path d="M0-7C5-1 5 5 0 5S-5-1 0-7Z" /><text x="8"
          y="4">{{ sayLength(p.depth, 2) }} deep</text></g>
    </template>
    <polyline v-if="work.section.value" :points="text(work.section.value.path)" class="cut" />
    <text v-for="(la, i) in look.shown.contours ? labels : []" :key="i" :transform="`translate(${la.x} ${la.y}) rotate(${la.angle})`"
        class="level" :style="{ fontSize: `${look.contours.labelSize}px` }" data-test="contour-label">{{ la.text }}</text>
    <template v-if="ui.stage === 'ground'">
      <g v-for="(p, i) in paths" :key="i">
        <polyline :points="text(p)" class="path" :class="{ chosen: ui.selection?.kind === 'path' && ui.selection.index === i }" />
        <circle
          v-for="(v, k) in p" :key="k" :cx="screen(v[0], v[1])[0]" :cy="screen(v[0], v[1])[1]" r="5" class="knot"
          :class="{ fixed: !editing }" :data-test="`path-${i + 1}-${k + 1}`" role="button"
          :aria-label="`Label path ${i + 1}, vertex ${k + 1}`"
          :tabindex="editing ? 0 : undefined"
          @pointerdown.stop="ui.selection = { kind: 'path', index: i }; on.down($event, grips.knotGrip(i, k))"
          @focus="ui.selection = { kind: 'path', index: i }"
        />
      </g>
      <g v-if="chosen" :transform="`translate(${chosen[0]} ${chosen[1]})`" class="pick" :class="{ fixed: !editing }"
          data-test="ground-pick" @pointerdown.stop="on.down($event, grips.pickGrip())"><circle r="12" fill="transparent" /><circle r="7"
          /><path d="M-11 0H-4M4 0H11M0-11V-4M0 4V11" /></g>
    </template>
  </g>
</template>

<style scoped>
.gathered { fill: #2f6f8f; fill-opacity: 0.22; stroke: #2f6f8f; stroke-width: 1.2; pointer-events: none; }
.pond path { fill: #2f6f8f; stroke: #fff; }
.pond text { font-size: 11px; font-weight: 600; fill: #1f536d; paint-order: stroke; stroke: #fff; stroke-width: 3px; }
.cut { fill: none; stroke: var(--petrol); stroke-width: 2; stroke-dasharray: 8 3; pointer-events: none; }
.level {
  font-size: 11px; font-weight: 600; fill: #5b4a32; text-anchor: middle; dominant-baseline: central; paint-order: stroke;
  stroke: #fbf8f1; stroke-width: 4px; pointer-events: none;
}
.path { fill: none; stroke: var(--ochre); stroke-width: 1.2; stroke-dasharray: 2 4; pointer-events: none; }
.path.chosen { stroke-width: 2; }
.knot { fill: #fff; stroke: var(--ochre); stroke-width: 2; cursor: move; }
.knot.fixed { pointer-events: none; }
.knot:focus-visible { stroke: var(--petrol); stroke-width: 3; }
.pick { cursor: move; }
.pick circle + circle { fill: none; stroke: var(--ochre); stroke-width: 2; }
.pick path { stroke: var(--ochre); stroke-width: 2; }
</style>
