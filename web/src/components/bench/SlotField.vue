<script setup lang="ts">
/** One slot of a sentence: read as text, clicked or entered to be changed, a number made a parameter from here. */
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import type { PartData, RuleSlot } from '@/api/types'
import { isPlainNumber, slotSaid, typedSlot } from '@/lib/sentence'

const props = defineProps<{ slotTold: RuleSlot; value: string | number | undefined; part: PartData; disabled?: boolean; test: string }>()
const emit = defineEmits<{ set: [value: string | number]; promote: [name: string] }>()
const open = ref(false)
const typed = ref('')
const asks = ref<string[]>([])
const naming = ref(false)
const name = ref('')
const box = useTemplateRef<HTMLElement>('box')
const face = useTemplateRef<HTMLElement>('face')
const isFormula = computed(() => ['length', 'slope', 'share', 'angle'].includes(props.slotTold.takes))
const said = computed(() => slotSaid(props.slotTold, props.value))
const choices = computed<[string, string][]>(() => {
  const p = props.part,
    words = props.slotTold.words
  switch (props.slotTold.takes) {
    case 'node':
      return ['start', ...new Set(p.nodes.map((n) => n.name))].map((n) => [n, n === 'start' ? 'the start' : n])
    case 'target':
      return [['ground', 'the ground'], ...p.targets.map((t): [string, string] => [t.name, t.label])]
    case 'line':
      return p.targets.filter((t) => t.kind === 'line').map((t) => [t.name, t.label])
    case 'run':
      return [...new Set(p.runs.map((r) => r.name || r.roles[0] || '').filter(Boolean))].map((r) => [r, r])
    default:
      return [
        ...Object.entries(words),
        ...p.parameters
          .filter((x) => x.kind === 'choice' && x.choices?.every((c) => c in words || ['outward', 'inward'].includes(c)))
          .map((x): [string, string] => [x.name, `as ${x.label.toLowerCase()} says`]),
      ]
  }
})
async function edit() {
  if (props.disabled) return
  typed.value = props.value === undefined ? '' : typeof props.value === 'number' ? said.value : `${props.value}`
  asks.value = []
  open.value = true
  await nextTick()
  const field = box.value?.querySelector<HTMLInputElement | HTMLSelectElement>('input, select')
  field?.focus()
  if (field instanceof HTMLInputElement) field.select()
}
function take(text: string) {
  if (!open.value) return
  const got = typedSlot(props.slotTold.takes, text)
  if ('asks' in got) return void (asks.value = got.asks)
  shut()
  if (got.value !== props.value) emit('set', got.value)
}
function choose(value: string) {
  shut()
  if (value !== props.value) emit('set', value)
}
/** Closed, and the keyboard stands on the slot again where it stood in its field. */
function shut() {
  const inside = box.value?.contains(document.activeElement)
  open.value = naming.value = false
  asks.value = []
  if (inside) void nextTick(() => face.value?.focus())
}
async function startNaming() {
  naming.value = true
  name.value = ''
  await nextTick()
  box.value?.querySelector<HTMLInputElement>('.name')?.focus()
}
function promote() {
  const given = name.value.trim()
  shut()
  if (given) emit('promote', given)
}
const left = (event: FocusEvent) => {
  if (!box.value?.contains(event.relatedTarget as Node | null) && !asks.value.length && !naming.value) take(typed.value)
}
</script>

<template>
  <button v-if="!open" ref="face" type="button" class="slot" :class="{ text: disabled }" :disabled="disabled" :data-test="test"
      :aria-label="`${slotTold.name.replace(/_/g, ' ')}: ${said}`" @click.stop="edit">{{ said || '…' }}</button>
  <span v-else ref="box" class="edit" @click.stop @keydown.esc.stop="shut">
    <template v-if="isFormula && !naming">
      <input v-model="typed" class="field" :aria-label="slotTold.name" :data-test="`${test}-input`" @keydown.enter.prevent="take(typed)"
          @focusout="left" />
      <button v-if="isPlainNumber(value)" type="button" class="link" :data-test="`${test}-promote`"
          @click="startNaming">make it a parameter</button>
      <span v-if="asks.length" class="asks">which?
        <button v-for="a in asks" :key="a" type="button" class="btn" :data-test="`slot-ask-${a}`" @click="choose(a)">{{ a }}</button></span>
    </template>
    <input v-else-if="naming" v-model="name" class="field name" placeholder="its name" aria-label="Name of the parameter"
        :data-test="`${test}-name`" @keydown.enter.prevent="promote" @focusout="promote" />
    <select v-else class="field" :aria-label="slotTold.name" :data-test="`${test}-select`" :value="value ?? slotTold.usual ?? ''"
        @change="choose(($event.target as HTMLSelectElement).value)" @focusout="shut">
      <option v-for="[v, text] in choices" :key="v" :value="v">{{ text }}</option>
    </select>
  </span>
</template>

<style scoped>
.slot {
  border: 0; border-bottom: 1px solid var(--petrol); background: var(--petrol-wash); color: var(--petrol); font-weight: 600; padding: 0 4px;
  border-radius: 3px 3px 0 0; cursor: pointer;
}
.slot.text { background: none; cursor: default; border-bottom-style: dotted; }
.edit { display: inline-flex; flex-wrap: wrap; gap: 4px; align-items: center; }
.edit .field { width: 118px; min-height: 24px; padding: 1px 5px; }
.edit .link { font-size: 12px; }
.asks { display: inline-flex; gap: 4px; align-items: center; color: var(--ochre-text); }
</style>
