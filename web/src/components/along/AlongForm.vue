<script setup lang="ts">
/** A row of what varies, edited in place: its ends and what holds them, its values. */
import { computed } from 'vue'
import type { AlongRow } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import { VEHICLES, useAlong } from '@/composables/useAlong'
import { useWorkbench } from '@/composables/workbench'
import { decimalsOf, fieldOf, unitOf } from '@/lib/parameter'
import { sayLength } from '@/lib/units'
import { useRefusals } from '@/composables/useRefusals'
import { useUi } from '@/stores/ui'
import LeadSource, { type Source } from './LeadSource.vue'

const props = defineProps<{ row: AlongRow }>()
const bench = useWorkbench()
const ui = useUi()
const along = useAlong(bench)
const { wrong, run } = useRefusals(bench, () => props.row.id)
const HOLDS = { station: 'chainage', tangent: 'tangent point', place: 'place', start: 'start of the road', end: 'end of the road' }
interface Blend {
  length: number
  form: 'linear' | 'smooth'
  lies: 'outside' | 'about' | 'inside'
}
type Data = {
  part?: string
  parameter?: string
  form?: 'constant' | 'linear' | 'table' | 'bends' | 'graded'
  least?: number
  vehicle?: string
  inner?: number
  over?: number
  value?: number | string
  value_to?: number
  rows?: [number, number][]
  do?: string
  with?: string | number
  road?: number
  level?: boolean
  ease?: number
  release?: number
  node?: string
  takes?: 'offset' | 'level' | 'both'
  edge?: string
  edge_side?: 'left' | 'right'
  survey?: number
  layer?: string
  surface?: number
  reach?: number
  reach_level?: number
  blend_from?: Blend
  blend_to?: Blend
}
const data = computed(() => props.row.data as Data)
const parameter = computed(() =>
  along.parts(props.row.side).find((p) => p.id === data.value.part)?.parameters.find((q) => q.name === data.value.parameter),
)
const source = computed<Source>(() => ({
  road: data.value.road ?? null,
  edge: data.value.edge ?? null,
  edge_side: data.value.edge_side ?? null,
  survey: data.value.survey ?? null,
  layer: data.value.layer ?? null,
  surface: data.value.surface ?? null,
}))
const set = (field: string, values: object) =>
  run(field, () => bench.change('variation', props.row.id, values, { silentFailure: true }))
const BLENDS = [
  ['blend_from', 'Blended in over'],
  ['blend_to', 'Blended out over'],
] as const
function setBlend(name: 'blend_from' | 'blend_to', to: Partial<Blend> | null) {
  const usual: Blend = { length: 20, form: 'linear', lies: 'outside' }
  void set(name, { [name]: to && { ...usual, ...data.value[name], ...to } })
}
async function remove() {
  ui.selection = null
  await bench.remove('variation', props.row.id)
}
const split = () => bench.post('variation', props.row.id, 'split', { station: ui.mark })
const join = () => bench.post('variation', props.row.id, 'join', {})
const inside = computed(() => ui.mark > props.row.station_from + 0.5 && ui.mark < props.row.station_to - 0.5)
</script>

<template>
  <div class="form" data-test="along-form">
    <template v-for="[name, hold, word] in ([['station_from', 'hold_from', 'From'], ['station_to', 'hold_to', 'To']] as const)" :key="name">
      <div class="end">
        <NumberField :label="word" kind="station" :decimals="2" :group="bench.style.value.group" :model-value="row[name]"
            :disabled="!bench.canEdit.value" :wrong="wrong[name]" :test="`along-${name}`" @change="set(name, { [name]: $event })" />
        <label>held by <select class="field" :value="row[hold]" :disabled="!bench.canEdit.value" :aria-label="`${word}: held by`"
            :data-test="`along-${hold}`" @change="set(hold, { [hold]: ($event.target as HTMLSelectElement).value })"><option
            v-for="(text, k) in HOLDS" :key="k" :value="k">{{ text }}</option></select></label>
        <p v-if="wrong[hold]" class="wrong" role="alert">{{ wrong[hold] }}</p>
      </div>
    </template>
    <template v-if="row.kind === 'stretch'">
      <div class="ask"><label>Template</label><select class="field" :value="row.template_id" :disabled="!bench.canEdit.value"
          aria-label="Template of the stretch" data-test="along-template"
          @change="set('template', { template_id: Number(($event.target as HTMLSelectElement).value) })"><option
          v-for="t in bench.project.value?.templates" :key="t.id" :value="t.id">{{ t.name }}</option></select></div>
      <p v-if="wrong.template" class="wrong" role="alert">{{ wrong.template }}</p>
      <div v-for="[name, word] in BLENDS" :key="name" class="blend">
        <NumberField :label="word" unit="m" :decimals="2" :model-value="data[name]?.length ?? 0" :disabled="!bench.canEdit.value"
            :wrong="wrong[name]" :test="`along-${name}`" @change="setBlend(name, $event ? { length: $event } : null)" />
        <div v-if="data[name]" class="how">
          <select class="field" :value="data[name]!.form" :disabled="!bench.canEdit.value" :aria-label="`${word}: form`"
              :data-test="`along-${name}-form`"
              @change="setBlend(name, { form: ($event.target as HTMLSelectElement).value as Blend['form'] })"><option
              value="linear">straight</option><option value="smooth">smooth</option></select>
          <select class="field" :value="data[name]!.lies" :disabled="!bench.canEdit.value" :aria-label="`${word}: where it lies`"
              :data-test="`along-${name}-lies`"
              @change="setBlend(name, { lies: ($event.target as HTMLSelectElement).value as Blend['lies'] })"><option
              value="outside">outside the range</option><option value="about">half in, half out</option><option
              value="inside">inside the range</option></select></div>
      </div>
    </template>
    <template v-if="row.kind === 'adjustment'">
      <template v-if="typeof data.value === 'string'">
        <div class="ask"><label>Is</label><select class="field" :value="data.value" :disabled="!bench.canEdit.value" aria-label="Is"
            data-test="along-value" @change="set('value', { value: ($event.target as HTMLSelectElement).value })"><option
            v-for="c in parameter?.choices ?? [data.value]" :key="c">{{ c }}</option></select></div>
      </template>
      <template v-else-if="data.form === 'bends'">
        <div class="ask"><label>For</label><select class="field" :value="data.vehicle" :disabled="!bench.canEdit.value" aria-label="Vehicle"
            data-test="along-vehicle" @change="set('vehicle', { vehicle: ($event.target as HTMLSelectElement).value })"><option
            v-for="v in VEHICLES" :key="v">{{ v }}</option></select></div>
        <p v-if="wrong.vehicle" class="wrong" role="alert">{{ wrong.vehicle }}</p>
        <NumberField label="Of it on the inside" kind="grade" :decimals="0" :model-value="data.inner ?? 1"
            :disabled="!bench.canEdit.value" :wrong="wrong.inner" test="along-inner"
            @change="$event !== null && set('inner', { inner: $event })" />
        <NumberField label="Without transition, over" unit="m" :decimals="2" :model-value="data.over ?? 30"
            :disabled="!bench.canEdit.value" :wrong="wrong.over" test="along-over"
            @change="$event !== null && set('over', { over: $event })" />
      </template>
      <NumberField v-else-if="data.form === 'graded'" label="Bed falls at least at" kind="grade" unit="%" :decimals="2"
          :model-value="data.least ?? null" :disabled="!bench.canEdit.value" :wrong="wrong.least" test="along-least"
          @change="$event !== null && set('least', { least: $event })" />
      <template v-else-if="data.form !== 'table'">
        <NumberField :label="data.form === 'linear' ? 'At its start' : parameter?.label ?? 'Value'" :kind="fieldOf(parameter?.kind ?? '')"
            :unit="unitOf(parameter?.kind ?? '')" :decimals="decimalsOf(parameter?.kind ?? '')" :model-value="data.value as number"
            :disabled="!bench.canEdit.value" :wrong="wrong.value" test="along-value"
            @change="$event !== null && set('value', { value: $event })" />
        <NumberField v-if="data.form === 'linear'" label="At its end" :kind="fieldOf(parameter?.kind ?? '')"
            :unit="unitOf(parameter?.kind ?? '')" :decimals="decimalsOf(parameter?.kind ?? '')" :model-value="data.value_to ?? null"
            :disabled="!bench.canEdit.value" :wrong="wrong.value_to" test="along-value_to"
            @change="$event !== null && set('value_to', { value_to: $event })" />
        <p v-if="row.taper" class="faded" data-test="along-taper">A lane so much wider is gained over {{ sayLength(row.taper, 1) }} at the
          design speed here; this range is {{ sayLength(row.station_to - row.station_from, 1) }} long. <button
          v-if="bench.canEdit.value && Math.abs(row.station_to - row.station_from - row.taper) > 0.05" class="link"
          data-test="along-use-taper" @click="set('station_to', { station_to: row.station_from + row.taper })">Make it so
          long</button></p>
        <button v-if="data.form === 'constant' && bench.canEdit.value" class="link" data-test="along-linear"
            @click="set('value', { form: 'linear', value_to: data.value })">let it change to its end</button>
      </template>
      <p v-else class="faded">{{ data.rows?.length }} values from {{ bench.station(data.rows?.[0]?.[0] ?? 0) }} on.</p>
    </template>
    <template v-if="row.kind === 'follow'">
      <div class="ask"><label>Takes</label><select class="field" :value="data.level ? 'both' : 'rate'" :disabled="!bench.canEdit.value"
          aria-label="What is taken" data-test="along-level"
          @change="set('level', { level: ($event.target as HTMLSelectElement).value === 'both' })"><option value="rate">the crossfall
          only</option><option value="both">plane and level</option></select></div>
      <NumberField label="Come to over" unit="m" :decimals="2" :model-value="data.ease ?? 0" :disabled="!bench.canEdit.value"
          :wrong="wrong.ease" test="along-ease" @change="set('ease', { ease: $event ?? 0 })" />
      <NumberField label="Let go over" unit="m" :decimals="2" :model-value="data.release ?? 0" :disabled="!bench.canEdit.value"
          :wrong="wrong.release" test="along-release" @change="set('release', { release: $event ?? 0 })" />
    </template>
    <template v-if="row.kind === 'led'">
      <div class="ask"><label>Takes</label><select class="field" :value="data.takes" :disabled="!bench.canEdit.value"
          aria-label="What is taken" data-test="along-takes"
          @change="set('takes', { takes: ($event.target as HTMLSelectElement).value })"><option value="offset">its offset</option><option
          value="level">its level</option><option value="both">offset and level</option></select></div>
      <LeadSource :source="source" :disabled="!bench.canEdit.value" 
          @change="set('source', $event.surface === null ? $event : { ...$event, takes: 'level' })" />
      <p v-if="wrong.source" class="wrong" role="alert">{{ wrong.source }}</p>
      <NumberField label="Lies within" unit="m" :decimals="2" :model-value="data.reach ?? 5" :disabled="!bench.canEdit.value"
          :wrong="wrong.reach" test="along-reach" @change="$event !== null && set('reach', { reach: $event })" />
      <NumberField v-if="data.takes !== 'offset'" label="and up or down" unit="m" :decimals="2" :model-value="data.reach_level ?? 2"
          :disabled="!bench.canEdit.value" :wrong="wrong.reach_level" test="along-reach_level"
          @change="$event !== null && set('reach_level', { reach_level: $event })" />
      <NumberField label="Come to over" unit="m" :decimals="2" :model-value="data.ease ?? 0" :disabled="!bench.canEdit.value"
          :wrong="wrong.ease" test="along-ease" @change="set('ease', { ease: $event ?? 0 })" />
      <NumberField label="Let go over" unit="m" :decimals="2" :model-value="data.release ?? 0" :disabled="!bench.canEdit.value"
          :wrong="wrong.release" test="along-release" @change="set('release', { release: $event ?? 0 })" />
    </template>
    <p v-if="row.kind === 'meet'" class="faded">Level and grade of the ground hold at the end, and its edges lie on it; from there the
      road goes over into its own.</p>
    <div v-if="row.kind === 'adjustment' || row.kind === 'change'" class="ask"><label>Side</label><select class="field" :value="row.side"
        :disabled="!bench.canEdit.value" aria-label="Side" data-test="along-side"
        @change="set('side', { side: ($event.target as HTMLSelectElement).value })"><option value="both">both</option><option
        value="left">left</option><option value="right">right</option></select></div>
    <p v-for="f in ['side', 'join']" v-show="wrong[f]" :key="f" class="wrong" role="alert">{{ wrong[f] }}</p>
    <div v-if="bench.canEdit.value" class="actions">
      <button v-if="row.kind !== 'meet'" class="btn quiet" :disabled="!inside"
          :title="inside ? '' : 'The reading mark stands outside of this range.'"
          data-test="along-split" @click="split">Split at {{ bench.station(ui.mark, 0) }}</button>
      <button v-if="row.kind !== 'meet'" class="btn quiet" data-test="along-join" @click="join">Join with the next</button>
      <button class="btn quiet" data-test="along-delete" @click="remove">Delete</button></div>
  </div>
</template>

<style scoped>
.end label { display: grid; grid-template-columns: 1fr 132px; color: var(--faded); font-size: 12px; align-items: center; }
.end .field, .how .field { min-height: 24px; padding: 1px 4px; }
.how { display: grid; grid-template-columns: 1fr 1fr; gap: 4px; }
.actions { flex-wrap: wrap; gap: 2px; }
</style>
