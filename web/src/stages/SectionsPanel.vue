<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Parameter, PlacedPart } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import { formatNumber } from '@/lib/format'
import { sayLength } from '@/lib/units'
import { useWorkbench } from '@/composables/workbench'

const bench = useWorkbench()
const template = bench.template
const side = ref<'both' | 'left' | 'right'>('both')
const parts = computed<PlacedPart[]>(() => (template.value ? (side.value === 'left' ? template.value.left : template.value.right) : []))
const wrong = ref<Record<string, string>>({})
const users = computed(() => (bench.project.value?.roads ?? []).filter((r) => r.template_id === template.value?.id).map((r) => r.name))
const UNIT: Record<string, string> = { length: 'm', height: 'm', percent: '%', one_in: '' }

/** Both sides differ: the field shows the right one, and says so. */
function said({ kind, value }: Parameter): string {
  if (typeof value === 'string') return value
  return kind === 'percent'
    ? `${formatNumber(100 * value, 2)} %`
    : kind === 'one_in'
      ? `1 in ${value}`
      : sayLength(value, kind === 'height' ? 3 : 2)
}
function other(part: PlacedPart, p: Parameter) {
  if (side.value !== 'both') return null
  const left = template.value!.left.find((x) => x.id === part.id)?.parameters.find((x) => x.name === p.name)
  return left && left.value !== p.value ? said(left) : null
}
async function set(part: PlacedPart, p: Parameter, value: number | string | null) {
  wrong.value = {}
  const t = template.value!
  const done = await bench.change(
    'template',
    t.id,
    { side: side.value, part: part.id, values: { [p.name]: value ?? p.usual } },
    { silentFailure: true },
  )
  if (!done && bench.failure.value) wrong.value = { [`${part.id}.${p.name}`]: bench.failure.value.message }
}
</script>

<template>
  <h2>{{ template?.name ?? 'Sections' }} <small>stage 4</small></h2>
  <p v-if="!template" class="faded">The road has no template yet.</p>
  <template v-else>
    <p class="faded">Used by {{ users.join(', ') || 'no road' }}; they follow at once.</p>
    <div class="sides" role="group" aria-label="Side">
      <button v-for="s in (['both', 'left', 'right'] as const)" :key="s" class="btn" :class="{ on: side === s }" :data-test="`side-${s}`"
          @click="side = s">{{ s === 'both' ? 'Both sides' : s === 'left' ? 'Left' : 'Right' }}</button>
    </div>
    <section v-for="part in parts" :key="part.id">
      <hr />
      <h3>{{ part.label }}</h3>
      <template v-for="p in part.parameters" :key="p.name">
        <div v-if="p.kind === 'choice'" class="choice">
          <label :for="`${part.id}-${p.name}`">{{ p.label }}</label>
          <select :id="`${part.id}-${p.name}`" class="field" :value="p.value" :disabled="!bench.canEdit.value"
              @change="set(part, p, ($event.target as HTMLSelectElement).value)"><option v-for="c in p.choices"
              :key="c">{{ c }}</option></select>
        </div>
        <NumberField
          v-else :label="p.label" :model-value="p.value as number"
          :kind="p.kind === 'percent' ? 'grade' : p.kind === 'one_in' ? 'one_in' : 'number'" :decimals="p.kind === 'height' ? 3 : 2"
          :unit="UNIT[p.kind]"
          :disabled="!bench.canEdit.value" :wrong="wrong[`${part.id}.${p.name}`]" :test="`${part.id}-${p.name}`"
          @change="set(part, p, $event)"
        />
        <p v-if="other(part, p) !== null" class="faded small">left differs: {{ other(part, p) }}</p>
      </template>
    </section>
    <p class="faded">Step along the road with <b>,</b> and <b>.</b> to see the template in cut and in fill.</p>
  </template>
</template>

<style scoped>
.sides { display: flex; gap: 4px; margin: 8px 0; }
.choice { display: grid; grid-template-columns: 1fr 112px 26px; column-gap: 8px; align-items: center; margin: 3px 0; }
.choice label { color: var(--faded); }
.small { font-size: 12px; text-align: right; margin: 0 !important; }
</style>
