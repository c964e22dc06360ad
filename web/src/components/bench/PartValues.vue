<script setup lang="ts">
/** Values of the part in hand, and what its targets are here; of a part alone its parameters with their usual values and limits. */
import { computed, ref } from 'vue'
import type { PartData, PartParameter } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import { useWorkbench } from '@/composables/workbench'
import { decimalsOf, fieldOf, sayParameter, unitOf } from '@/lib/parameter'
import { units } from '@/lib/units'

const bench = useWorkbench()
const shop = bench.partBench
const wrong = ref<Record<string, string>>({})
const placed = computed(() => {
  const at = shop.inHand.value
  return at ? (shop.template.value?.[at.side].find((p) => p.id === at.id) ?? null) : null
})
const data = computed(() => shop.part.value?.data as unknown as PartData | undefined)
interface Row {
  name: string
  label: string
  kind: string
  value: number | string
  usual: number | string
  choices: [string, string][]
  remark: string
  least?: number
  greatest?: number
}
const structures = computed<[string, string][]>(() => [
  ['', `${shop.library.value?.usual_structure ?? ''} (usual)`],
  ...(bench.project.value?.structures ?? []).map((s): [string, string] => [`${s.id}`, s.name]),
])
const toM = (p: PartParameter, v: number | string) => (typeof v === 'number' && ['length', 'height'].includes(p.kind) ? v *
    units.value.metre : v)
const rows = computed<Row[]>(() => {
  const listed = placed.value
    ? placed.value.parameters.map((p) => ({ ...p, choices: p.choices.map((c): [string, string] => [c, c]) }))
    : (data.value?.parameters ?? []).map((p) => ({
        ...p, value: toM(p, p.value), usual: toM(p, p.value), remark: p.remark ?? '',
        choices: (p.choices ?? []).map((c): [string, string] => [c, c]),
      })) // prettier-ignore
  return listed.map((p) => (p.kind === 'structure' ? { ...p, choices: structures.value } : p))
})
const side = ref<'both' | 'left' | 'right'>('both')
const sides = computed(() => (placed.value ? ['both', 'left', 'right'] : []) as ('both' | 'left' | 'right')[])
const otherSide = (p: Row) => {
  const at = shop.inHand.value
  const across = at && shop.template.value?.[at.side === 'left' ? 'right' : 'left'].find((x) => x.id === at.id)
  const v = across?.parameters.find((x) => x.name === p.name)?.value
  return v !== undefined && v !== p.value ? said(p, v) : null
}
const said = (p: Row, v: number | string) => sayParameter(p.kind, v)
async function set(p: Row, value: number | string | null) {
  wrong.value = {}
  const done = await shop.setValues({ [p.name]: value }, { silentFailure: true }, placed.value ? side.value : 'both')
  if (!done && bench.failure.value) wrong.value = { [p.name]: bench.failure.value.message }
}
async function bind(name: string, to: { surface?: number; level?: number }) {
  const at = shop.inHand.value!
  await bench.change('template', shop.template.value!.id, { side: side.value, part: at.id, values: {}, targets: { [name]: to } as never })
}
const drop = (name: string) => shop.change([{ do: 'remove parameter', parameter: name }])
</script>

<template>
  <div v-if="sides.length" class="sides" role="group" aria-label="Side">
    <button v-for="s in sides" :key="s" class="btn" :class="{ on: side === s }" :data-test="`side-${s}`"
        @click="side = s">{{ s === 'both' ? 'Both sides' : s === 'left' ? 'Left' : 'Right' }}</button>
  </div>
  <template v-for="p in rows" :key="p.name">
    <div v-if="p.choices.length" class="choice">
      <label :for="`value-${p.name}`">{{ p.label }}</label>
      <select :id="`value-${p.name}`" class="field" :value="p.value" :disabled="!bench.canEdit.value" :data-test="`value-${p.name}`"
          @change="set(p, ($event.target as HTMLSelectElement).value)"><option v-for="[c, text] in p.choices" :key="c"
          :value="c">{{ text }}</option></select>
    </div>
    <NumberField
      v-else :label="p.label" :model-value="p.value as number"
      :kind="fieldOf(p.kind)" :decimals="decimalsOf(p.kind)"
      :unit="unitOf(p.kind)" :disabled="!bench.canEdit.value" :wrong="wrong[p.name]" :test="`${shop.inHand.value?.id}-${p.name}`"
      @change="set(p, $event)"
    />
    <p v-if="wrong[p.name] && p.choices.length" class="wrong">{{ wrong[p.name] }}</p>
    <p v-if="p.remark" class="faded small">{{ p.remark }}</p>
    <p v-if="otherSide(p) !== null" class="faded small">the other side: {{ otherSide(p) }}</p>
    <p v-if="!placed && shop.own.value !== null && bench.canEdit.value" class="small"><button class="link"
        :data-test="`drop-${p.name}`" @click="drop(p.name)">delete {{ p.name }}</button></p>
  </template>
  <template v-if="placed?.targets.length">
    <h3>What it looks for</h3>
    <div v-for="t in placed.targets" :key="t.name" class="choice">
      <label :for="`target-${t.name}`">{{ t.label }}</label>
      <select v-if="t.kind === 'surface'" :id="`target-${t.name}`" class="field" :value="t.surface ?? ''" :disabled="!bench.canEdit.value"
          :data-test="`target-${t.name}`" @change="bind(t.name, { surface: Number(($event.target as HTMLSelectElement).value) })">
        <option value="" disabled>not chosen yet</option>
        <option v-for="s in bench.project.value?.surfaces ?? []" :key="s.id" :value="s.id">{{ s.name }}</option></select>
      <NumberField v-else-if="t.kind === 'level'" label="level" :model-value="t.level" unit="m" compact :test="`target-${t.name}`"
          @change="$event !== null && bind(t.name, { level: $event })" />
      <span v-else class="faded">comes with 'Road'</span>
    </div>
  </template>
  <p v-if="!rows.length" class="faded">This part has no parameters. Click a number in its sentences to make one.</p>
</template>

<style scoped>
.sides { display: flex; gap: 4px; margin: 8px 0; }
.choice { display: grid; grid-template-columns: 1fr 132px; column-gap: 8px; align-items: center; margin: 3px 0; }
.choice label { color: var(--faded); }
.small { font-size: 12px; margin: 0 0 3px !important; }
</style>
