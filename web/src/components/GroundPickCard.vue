<script setup lang="ts">
/** The chosen point or breakline vertex: place and level, and what can be done with it. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import type { GroundPick } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import type { Ground } from '@/composables/useGround'
import { useWorkbench } from '@/composables/workbench'
import { counted } from '@/lib/words'
import { useUi } from '@/stores/ui'

const props = defineProps<{ ground: Ground; pick: GroundPick }>()
const bench = useWorkbench()
const ui = useUi()
const spacing = ref(5)
const title = computed(() =>
  props.pick.kind === 'point' ? `Point ${props.pick.point! + 1}` : `Vertex ${props.pick.vertex! + 1} of breakline ${props.pick.line! + 1}`,
)
const from = computed(() =>
  props.pick.survey === 0 ? 'added here' : (bench.surface.value?.sources.find((s) => s.id === props.pick.survey)?.name ?? ''),
)
const where = computed(() =>
  props.pick.kind === 'vertex'
    ? { survey: props.pick.survey, line: props.pick.line, vertex: props.pick.vertex }
    : { survey: props.pick.survey, point: props.pick.point },
)

/** Vertices of the chosen line, of each sort, as the surface is now. */
const counts = useQuery({
  queryKey: computed(() => ['vertices', bench.surface.value?.id, bench.surface.value?.key, ...props.pick.place]),
  queryFn: () => {
    const [e, n] = props.pick.place
    return api.get<GroundPick | null>(`/surfaces/${bench.surface.value!.id}/nearest?e=${e}&n=${n}&within=0.01`)
  },
  enabled: computed(() => props.pick.kind === 'vertex' && !!bench.surface.value),
  placeholderData: (before) => before,
})
const sorts = computed(() => counts.data.value ?? props.pick)
async function move(i: 0 | 1 | 2, value: number | null) {
  if (value === null) return
  const to = [...props.pick.place] as [number, number, number]
  to[i] = value
  if (await props.ground.edit([{ do: props.pick.kind === 'vertex' ? 'move_vertex' : 'move_point', ...where.value, to }]))
    ui.selection = { kind: 'ground', pick: { ...props.pick, place: to } }
}
async function done(edit: Parameters<Ground['edit']>[0][number], keep = false) {
  if ((await props.ground.edit([edit])) && !keep) ui.selection = null
}
</script>

<template>
  <h3>{{ title }}</h3>
  <p class="faded">{{ from }}</p>
  <NumberField label="Easting" :model-value="pick.place[0]" unit="m" :disabled="!bench.canEdit.value" @change="(v) => move(0, v)" />
  <NumberField label="Northing" :model-value="pick.place[1]" unit="m" :disabled="!bench.canEdit.value" @change="(v) => move(1, v)" />
  <NumberField label="Level" :model-value="pick.place[2]" unit="m" empty="none" :disabled="!bench.canEdit.value" test="pick-level"
      @change="(v) => move(2, v)" />
  <div v-if="bench.canEdit.value" class="actions">
    <button v-if="pick.kind === 'point'" class="btn" data-test="pick-leave-out"
        @click="done({ do: 'leave_out', survey: pick.survey, points: [pick.point!] })">Leave out</button>
    <template v-else>
      <button class="btn" @click="done({ do: 'delete_vertex', ...where })">Delete vertex</button>
      <button class="btn" @click="done({ do: 'leave_out_line', survey: pick.survey, line: pick.line })">Leave line out</button>
    </template>
  </div>
  <p v-if="sorts.own !== undefined" data-test="vertex-counts">{{ counted(sorts.own, 'vertex of its own', 'vertices of its own') }},
    {{ sorts.fixed }} fixed, {{ sorts.generated }} generated.</p>
  <template v-if="pick.kind === 'vertex' && bench.canEdit.value">
    <NumberField label="Live spacing of this line" :model-value="pick.spacing ?? null" :decimals="2" unit="m" empty="as surface"
        test="line-spacing" @change="(v) => done({ do: 'live_spacing', survey: pick.survey, line: pick.line, spacing: v }, true)" />
    <NumberField label="Fixed vertices every" :model-value="spacing" :decimals="2" unit="m" @change="(v) => v && (spacing = v)" />
    <div class="actions"><button class="btn" data-test="put-in"
        @click="done({ do: 'fixed_vertices', survey: pick.survey, line: pick.line, spacing })">Put fixed vertices in</button></div>
  </template>
  <p class="faded">Drag the mark in plan to move it.</p>
</template>
