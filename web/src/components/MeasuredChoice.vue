<script setup lang="ts">
/** What was measured along a line: a layer of a received file, and one line of it where it holds several. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api } from '@/api/client'
import type { MeasuredLine } from '@/api/types'
import { measuredLayers, type Measured } from '@/composables/measured'
import { useWorkbench } from '@/composables/workbench'
import { bareLength, sayLength } from '@/lib/units'

const props = defineProps<{ label: string; empty: string; test: string }>()
const model = defineModel<Measured | null>({ required: true })
const bench = useWorkbench()
const choices = computed(() => measuredLayers(bench))
const chosen = computed(() => (model.value ? `${model.value.survey}|${model.value.layer}` : ''))
const layer = computed(() => choices.value.find((c) => c.id === chosen.value))
const lines = useQuery({
  queryKey: computed(() => ['measured-lines', bench.projectId, chosen.value]),
  queryFn: () =>
    api.get<MeasuredLine[]>(
      `/projects/${bench.projectId}/measured-lines?survey=${model.value!.survey}&layer=${encodeURIComponent(model.value!.layer)}`,
    ),
  enabled: computed(() => (layer.value?.lines ?? 0) > 1),
})
const offered = computed(() => ((layer.value?.lines ?? 0) > 1 ? (lines.data.value ?? []) : []))
function pick(id: string) {
  const found = choices.value.find((c) => c.id === id)
  model.value = found ? { survey: found.survey, layer: found.layer, line: null } : null
}
</script>

<template>
  <select class="field" :value="chosen" :aria-label="props.label" :data-test="props.test"
      @change="pick(($event.target as HTMLSelectElement).value)"><option value="">{{ props.empty }}</option><option
      v-for="c in choices" :key="c.id" :value="c.id">{{ c.name }}</option></select>
  <select v-if="offered.length" class="field" :value="model?.line ?? ''" aria-label="Which line of the layer"
      :data-test="`${props.test}-line`"
      @change="model = { ...model!, line: ($event.target as HTMLSelectElement).value === '' ? null
        : Number(($event.target as HTMLSelectElement).value) }"><option value="">all {{ offered.length }} lines</option><option
      v-for="(l, i) in offered" :key="i" :value="i">line {{ i + 1 }}: {{ sayLength(l.length, 0) }} from E
      {{ bareLength(l.start[0], 0) }}, N {{ bareLength(l.start[1], 0) }}</option></select>
</template>
