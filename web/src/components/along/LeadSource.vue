<script setup lang="ts">
/** What leads a node: an edge or the centre line of another road, the lines of a layer that was received, or in level a surface. */
import { computed } from 'vue'
import { measuredLayers } from '@/composables/measured'
import { useWorkbench } from '@/composables/workbench'
import { useUi } from '@/stores/ui'

export interface Source {
  road: number | null
  edge: string | null
  edge_side: 'left' | 'right' | null
  survey: number | null
  layer: string | null
  surface: number | null
}
const props = defineProps<{ source: Source; disabled?: boolean }>()
const emit = defineEmits<{ change: [source: Source] }>()
const bench = useWorkbench()
const ui = useUi()
const CENTRE = 'centre line'
const roads = computed(() => (bench.project.value?.roads ?? []).filter((r) => r.id !== ui.roadId))
const surfaces = computed(() => (bench.project.value?.surfaces ?? []).filter((s) => s.sources.length))
const layers = computed(() => measuredLayers(bench).filter((c) => c.isLine))
const edges = computed(() => (bench.project.value?.roles ?? []).filter((r) => !r.below && r.name !== CENTRE).map((r) => r.name))
const line = computed(() => {
  const s = props.source
  if (s.surface !== null) return `surface ${s.surface}`
  return s.survey !== null ? `layer ${s.survey}|${s.layer}` : `road ${s.road}`
})
const edge = computed(() => {
  const s = props.source
  return s.edge === null || s.edge === CENTRE ? CENTRE : `${s.edge_side} ${s.edge}`
})
function setLine(text: string) {
  const [kind, id] = [text.slice(0, text.indexOf(' ')), text.slice(text.indexOf(' ') + 1)]
  const [survey, ...layer] = id.split('|')
  const none: Source = { road: null, edge: null, edge_side: null, survey: null, layer: null, surface: null }
  if (kind === 'layer') emit('change', { ...none, survey: Number(survey), layer: layer.join('|') })
  else if (kind === 'surface') emit('change', { ...none, surface: Number(id) })
  else emit('change', { ...none, road: Number(id), edge: props.source.edge ?? CENTRE, edge_side: props.source.edge_side })
}
function setEdge(text: string) {
  const side = text.startsWith('left ') ? 'left' : text.startsWith('right ') ? 'right' : null
  emit('change', { ...props.source, edge: side ? text.slice(side.length + 1) : CENTRE, edge_side: side })
}
</script>

<template>
  <div class="ask"><label for="lead-line">Led by</label><select id="lead-line" class="field" :value="line" :disabled="disabled"
      data-test="lead-line" @change="setLine(($event.target as HTMLSelectElement).value)"><option v-for="r in roads" :key="r.id"
      :value="`road ${r.id}`">{{ r.name }}</option><option v-for="c in layers" :key="c.id"
      :value="`layer ${c.id}`">{{ c.name }}</option><option v-for="s in surfaces" :key="`s${s.id}`"
      :value="`surface ${s.id}`">{{ s.name }} (surface)</option></select></div>
  <div v-if="source.road !== null" class="ask"><label for="lead-edge">Which</label><select id="lead-edge" class="field" :value="edge"
      :disabled="disabled" data-test="lead-edge" @change="setEdge(($event.target as HTMLSelectElement).value)"><option
      :value="CENTRE">{{ CENTRE }}</option><template v-for="e in edges" :key="e"><option v-for="s in ['left', 'right']" :key="s"
      :value="`${s} ${e}`">{{ s }} {{ e }}</option></template></select></div>
</template>
