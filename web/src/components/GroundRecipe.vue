<script setup lang="ts">
/** How the sources become the surface: settings, and the edits in order, each of which can be taken back. */
import type { GroundEdit } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import type { Ground } from '@/composables/useGround'
import { useRefusals } from '@/composables/useRefusals'
import { useWorkbench } from '@/composables/workbench'
import { sayLength } from '@/lib/units'
import { useUi } from '@/stores/ui'

const props = defineProps<{ ground: Ground }>()
const bench = useWorkbench()
const ui = useUi()
const SETTINGS = [
  ['greatest_edge', 'Longest outer edge', 'm', 'hull', 1],
  ['live_spacing', 'Live breakline spacing', 'm', 'off', 2],
  ['weed_plan', 'Weed lines: in plan', 'm', 'off', 3],
  ['weed_level', 'Weed lines: in level', 'm', 'off', 3],
] as const
const { wrong, run } = useRefusals(bench, () => props.ground.surface.value?.id)
const set = (name: string, value: number | null) => run(name, () => props.ground.change({ [name]: value }))
const WORDS: Record<string, (e: GroundEdit) => string> = {
  leave_out: (e) => `${e.points!.length === 1 ? `point ${e.points![0]! + 1}` : `${e.points!.length} points`} left out`,
  set_level: (e) => `point ${e.point! + 1} set to ${sayLength(e.level, 3)}`,
  move_point: (e) => `point ${e.point! + 1} moved`,
  add_point: (e) => `point added at ${sayLength(e.to![2], 3)}`,
  leave_out_line: (e) => `line ${e.line! + 1} left out`,
  add_line: (e) => `breakline of ${e.vertices!.length} vertices added`,
  move_vertex: (e) => `vertex ${e.vertex! + 1} of line ${e.line! + 1} moved`,
  delete_vertex: (e) => `vertex ${e.vertex! + 1} of line ${e.line! + 1} deleted`,
  fixed_vertices: (e) => `vertices put in line ${e.line! + 1} every ${sayLength(e.spacing, 2)}`,
  live_spacing: (e) =>
    e.spacing ? `live spacing of line ${e.line! + 1}: ${sayLength(e.spacing, 2)}` : `live spacing of line ${e.line! + 1} off`,
  swap_edge: () => 'side turned',
  delete_triangles: () => 'triangle deleted',
}
function show(e: GroundEdit) {
  const at = e.to ?? e.vertices?.[0] ?? e.at
  if (at) ui.goTo = { e: at[0]!, n: at[1]! }
}
const takeBack = (i: number) => bench.remove('surface', props.ground.surface.value!.id, {}, `edits/${i}`)
</script>

<template>
  <NumberField v-for="[name, label, unit, empty, decimals] in SETTINGS" :key="name" :label="label"
      :model-value="ground.surface.value![name]" :decimals="decimals" :unit="unit" :empty="empty" :disabled="!bench.canEdit.value"
      :wrong="wrong[name]" :test="name.replace('_', '-')" @change="(v) => set(name, v)" />
  <p v-if="(ground.surface.value!.weed_plan === null) !== (ground.surface.value!.weed_level === null)"
      class="faded">Weeding needs both limits, in plan and in level.</p>
  <template v-if="ground.surface.value!.edits.length">
    <h4>Edits</h4>
    <ol class="edits">
      <li v-for="(e, i) in ground.surface.value!.edits" :key="i" data-test="edit"><button class="link"
          :disabled="!(e.to || e.vertices || e.at)" @click="show(e)">{{ WORDS[e.do]?.(e) ?? e.do }}</button><button
          v-if="bench.canEdit.value" class="link" @click="takeBack(i)">Take back</button></li>
    </ol>
  </template>
</template>

<style scoped>
h4 { margin: 10px 0 2px; font-size: 12px; }
.edits { margin: 0; padding-left: 20px; font-size: 12px; max-height: 190px; overflow-y: auto; }
.edits li { padding: 1px 0; }
.edits .link:disabled { color: inherit; cursor: default; }
.edits .link + .link { margin-left: 10px; }
</style>
