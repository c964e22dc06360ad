<script setup lang="ts">
/** A new row of what varies: over the marked range, else from the reading mark on. */
import { computed, onMounted, ref, watch } from 'vue'
import { api } from '@/api/client'
import type { Acted, AlongRow } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import { VEHICLES, useAlong } from '@/composables/useAlong'
import { useWorkbench } from '@/composables/workbench'
import { decimalsOf, fieldOf, unitOf } from '@/lib/parameter'
import { measuredLayers } from '@/composables/measured'
import { units } from '@/lib/units'
import { useUi } from '@/stores/ui'
import LeadSource, { type Source } from './LeadSource.vue'

const props = defineProps<{ kind: AlongRow['kind'] }>()
const emit = defineEmits<{ done: [] }>()
const bench = useWorkbench()
const ui = useUi()
const along = useAlong(bench)
const shop = bench.partBench
const marked = along.usualRange.value
const from = ref(marked[0])
const to = ref(marked[1])
watch(
  () => ui.range,
  (range) => range && ([from.value, to.value] = range),
)
const templates = computed(() => bench.project.value?.templates ?? [])
const template = ref<number | null>((templates.value.find((t) => t.id !== bench.road.value?.template_id) ?? templates.value[0])?.id ?? null)
const blend = ref(0)
const side = ref<'both' | 'left' | 'right'>(props.kind === 'led' ? 'right' : 'both')
const parts = computed(() => along.parts(side.value))
const part = ref(parts.value[0]?.id ?? '')
const chosen = computed(() => parts.value.find((p) => p.id === part.value) ?? parts.value[0])
const name = ref('')
const parameter = computed(() => chosen.value?.parameters.find((p) => p.name === name.value) ?? chosen.value?.parameters[0])
const given = ref<number | string | null>(null)
const value = computed(() => given.value ?? parameter.value?.value ?? 0)
const how = ref<'value' | 'bends' | 'graded'>('value')
const vehicle = ref<string>(VEHICLES[0])
const least = ref(0.005)
/** What else a value may be than one number: a width grows in bends, a depth keeps a bed falling. */
const ways = computed<[string, string][]>(() => {
  if (parameter.value?.kind === 'length') return [['bends', 'wider in bends']]
  const bed = chosen.value?.nodes.some((n) => n.label.includes('invert') || n.label === 'channel line')
  return parameter.value?.kind === 'height' && bed ? [['graded', 'keeps the bed falling']] : []
})
const way = computed(() => (ways.value.some(([k]) => k === how.value) ? how.value : 'value'))
const what = ref<'off' | 'replace' | 'add'>('off')
const others = computed<[string | number, string][]>(() => [
  ...(bench.project.value?.parts ?? []).map((p): [number, string] => [p.id, p.label]),
  ...(shop.library.value?.parts ?? []).map((p): [string, string] => [p.name, p.label]),
])
const other = ref<string | number>('')
const roads = computed(() => (bench.project.value?.roads ?? []).filter((r) => r.id !== ui.roadId))
const road = ref<number | null>(roads.value[0]?.id ?? null)
const level = ref(true)
const release = ref(0)
const nodes = computed(() => parts.value.flatMap((p) => p.nodes.map((n) => ({ ...n, of: p.label }))))
const nodeAsked = ref('')
const node = computed(() => nodes.value.find((n) => n.name === nodeAsked.value) ?? nodes.value[0])
const takes = ref<'offset' | 'level' | 'both'>('offset')
const reach = ref(5)
const ease = ref(0)
const layer = roads.value.length ? null : measuredLayers(bench).find((c) => c.isLine)?.id.split('|')
const source = ref<Source>({
  road: roads.value[0]?.id ?? null,
  edge: roads.value.length ? 'centre line' : null,
  edge_side: null,
  survey: layer ? Number(layer[0]) : null,
  layer: layer?.slice(1).join('|') ?? null,
  surface: null,
})
const taken = computed(() => (source.value.surface === null ? takes.value : 'level'))
const end = ref<'start' | 'end'>(ui.mark - bench.limits.value[0] > bench.limits.value[1] - ui.mark ? 'end' : 'start')
const over = ref(Math.min(40 * units.value.metre, (bench.limits.value[1] - bench.limits.value[0]) / 2))
const wrong = ref('')
onMounted(() => {
  if (props.kind === 'change') void shop.needLibrary()
})
function fields(): object {
  switch (props.kind) {
    case 'stretch': {
      const over = blend.value > 0 ? { length: blend.value } : null
      return { template_id: template.value, ...(over ? { blend_from: over, blend_to: over } : {}) }
    }
    case 'adjustment':
      return {
        side: side.value,
        part: chosen.value?.id,
        parameter: parameter.value?.name,
        ...{
          bends: { form: 'bends', vehicle: vehicle.value },
          graded: { form: 'graded', least: least.value },
          value: { form: 'constant', value: value.value },
        }[way.value],
      }
    case 'change':
      return { side: side.value, part: chosen.value?.id, do: what.value, ...(what.value === 'off' ? {} : { with_part: other.value }) }
    case 'follow':
      return { road: road.value, level: level.value, release: release.value }
    case 'meet':
      return { end: end.value, over: over.value }
    case 'led':
      return {
        side: side.value,
        node: node.value?.name,
        takes: taken.value,
        reach: reach.value,
        ease: ease.value,
        release: ease.value,
        ...Object.fromEntries(Object.entries(source.value).filter(([, v]) => v !== null)),
      }
  }
  return {}
}
async function add(another = false) {
  wrong.value = ''
  const range = props.kind === 'meet' ? {} : { station_from: from.value, station_to: to.value }
  const body = { kind: props.kind, ...range, ...fields() }
  const done = (await bench.act(() => api.post<Acted>(`/roads/${ui.roadId}/variations`, body), { silentFailure: true })) as
    | (Acted & { variation_id?: number })
    | null
  if (!done) return void (wrong.value = bench.failure.value?.message ?? '')
  if (another) return // the next range is marked with the form as it is
  if (done.variation_id) along.choose(done.variation_id)
  emit('done')
}
const otherOf = (text: string) => others.value.find(([id]) => `${id}` === text)?.[0] ?? ''
</script>

<template>
  <form class="new" data-test="along-new" @submit.prevent="add()" @keydown.esc.stop="emit('done')">
    <template v-if="kind === 'meet'">
      <div class="ask"><label for="new-end">At the</label><select id="new-end" v-model="end" class="field" data-test="new-end"><option
          value="start">start of the road</option><option value="end">end of the road</option></select></div>
      <NumberField label="Goes over into its own in" unit="m" :decimals="2" :model-value="over" test="new-over"
          @change="over = $event ?? over" />
    </template>
    <template v-else>
    <NumberField label="From" kind="station" :decimals="2" :group="bench.style.value.group" :model-value="from" test="new-from"
        @change="$event !== null && (from = $event)" />
    <NumberField label="To" kind="station" :decimals="2" :group="bench.style.value.group" :model-value="to" test="new-to"
        @change="$event !== null && (to = $event)" />
    </template>
    <template v-if="kind === 'stretch'">
      <div class="ask"><label for="new-template">Template</label><select id="new-template" v-model="template" class="field"
          data-test="new-template"><option v-for="t in templates" :key="t.id" :value="t.id">{{ t.name }}</option></select></div>
      <NumberField label="Blended at both ends over" unit="m" :decimals="2" :model-value="blend" test="new-blend"
          @change="blend = $event ?? 0" />
    </template>
    <template v-if="kind === 'follow'">
      <div class="ask"><label for="new-road">Road</label><select id="new-road" v-model="road" class="field" data-test="new-road"><option
          v-for="r in roads" :key="r.id" :value="r.id">{{ r.name }}</option></select></div>
      <div class="ask"><label for="new-level">Takes</label><select id="new-level" class="field" data-test="new-level"
          :value="level ? 'both' : 'rate'" @change="level = ($event.target as HTMLSelectElement).value === 'both'"><option
          value="rate">the crossfall only</option><option value="both">plane and level</option></select></div>
      <NumberField label="Let go over" unit="m" :decimals="2" :model-value="release" test="new-release" @change="release = $event ?? 0" />
    </template>
    <template v-if="kind === 'led'">
      <div class="ask"><label for="new-led-side">Side</label><select id="new-led-side" v-model="side" class="field"
          data-test="new-side"><option value="left">left</option><option value="right">right</option></select></div>
      <div class="ask"><label for="new-node">Node</label><select id="new-node" class="field" :value="node?.name" data-test="new-node"
          @change="nodeAsked = ($event.target as HTMLSelectElement).value"><option v-for="n in nodes" :key="n.name"
          :value="n.name">{{ n.label }} ({{ n.of }})</option></select></div>
      <div class="ask"><label for="new-takes">Takes</label><select id="new-takes" class="field" :value="taken"
          :disabled="source.surface !== null" data-test="new-takes"
          @change="takes = ($event.target as HTMLSelectElement).value as typeof takes"><option value="offset">its offset</option><option
          value="level">its level</option><option value="both">offset and level</option></select></div>
      <LeadSource :source="source" @change="source = $event" />
      <NumberField label="Lies within" unit="m" :decimals="2" :model-value="reach" test="new-reach" @change="reach = $event ?? reach" />
      <NumberField label="Come to, let go over" unit="m" :decimals="2" :model-value="ease" test="new-ease" @change="ease = $event ?? 0" />
    </template>
    <template v-if="kind === 'adjustment' || kind === 'change'">
      <div class="ask"><label for="new-side">Side</label><select id="new-side" v-model="side" class="field" data-test="new-side"><option
          value="both">both</option><option value="left">left</option><option value="right">right</option></select></div>
      <div v-if="kind === 'change'" class="ask"><label for="new-do">What</label><select id="new-do" v-model="what" class="field"
          data-test="new-do"><option value="off">left out</option><option value="replace">another in its place</option><option
          value="add">one more after it</option></select></div>
      <div class="ask"><label for="new-part">Part</label><select id="new-part" class="field" :value="chosen?.id" data-test="new-part"
          @change="part = ($event.target as HTMLSelectElement).value; given = null"><option v-for="p in parts" :key="p.id"
          :value="p.id">{{ p.label }}</option></select></div>
    </template>
    <div v-if="kind === 'change' && what !== 'off'" class="ask"><label for="new-with">With</label><select id="new-with" class="field"
        :value="other" data-test="new-with" @change="other = otherOf(($event.target as HTMLSelectElement).value)"><option value=""
        disabled>choose a part</option><option v-for="[id, label] in others" :key="id" :value="id">{{ label }}</option></select></div>
    <template v-if="kind === 'adjustment' && parameter">
      <div class="ask"><label for="new-parameter">Value of</label><select id="new-parameter" class="field" :value="parameter.name"
          data-test="new-parameter" @change="name = ($event.target as HTMLSelectElement).value; given = null"><option
          v-for="p in chosen?.parameters" :key="p.name" :value="p.name">{{ p.label }}</option></select></div>
      <div v-if="ways.length" class="ask wide"><label for="new-how">How</label><select id="new-how" v-model="how"
          class="field" data-test="new-how"><option value="value">one value</option><option v-for="[k, text] in ways" :key="k"
          :value="k">{{ text }}</option></select></div>
      <NumberField v-if="way === 'graded'" label="at least at" kind="grade" unit="%" :decimals="2" :model-value="least" test="new-least"
          @change="least = $event ?? least" />
      <div v-else-if="way === 'bends'" class="ask"><label for="new-vehicle">For</label><select id="new-vehicle" v-model="vehicle"
          class="field" data-test="new-vehicle"><option v-for="v in VEHICLES" :key="v">{{ v }}</option></select></div>
      <div v-else-if="parameter.kind === 'choice'" class="ask"><label for="new-value">Is</label><select id="new-value" class="field"
          :value="value" data-test="new-value" @change="given = ($event.target as HTMLSelectElement).value"><option
          v-for="c in parameter.choices" :key="c">{{ c }}</option></select></div>
      <NumberField v-else :label="parameter.label" :kind="fieldOf(parameter.kind)" :unit="unitOf(parameter.kind)"
          :decimals="decimalsOf(parameter.kind)" :model-value="value as number" test="new-value" @change="given = $event" />
    </template>
    <p v-if="wrong" class="wrong" role="alert" data-test="along-wrong">{{ wrong }}</p>
    <div class="actions"><button type="submit" class="btn" data-test="along-add">Add</button><button v-if="kind !== 'meet'" type="button"
        class="btn quiet" data-test="along-another" title="Add it, and keep this open for the next range"
        @click="add(true)">Add another</button><button type="button" class="btn quiet" @click="emit('done')">Cancel</button></div>
  </form>
</template>

<style scoped>
.new { border: 1px solid var(--rule); border-radius: 4px; padding: 6px 8px; margin-top: 6px; background: var(--sheet); }
</style>
