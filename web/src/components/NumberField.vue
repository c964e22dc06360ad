<script setup lang="ts">
/** A number as people write it: arithmetic, units, 1 in n, chainages. Says beside the field what is wrong; Esc brings back the value. */
import { computed, ref, useId, watch } from 'vue'
import { useWorkbenchIfAny } from '@/composables/workbench'
import { countedAt } from '@/lib/chainage'
import { formatNumber, formatStation } from '@/lib/format'
import { parseNumber } from '@/lib/numbers'

const props = withDefaults(defineProps<{
  label: string; modelValue: number | null; kind?: 'number' | 'station' | 'grade' | 'one_in'; decimals?: number; unit?: string; disabled?: boolean
  wrong?: string; compact?: boolean; empty?: string; group?: number; test?: string
}>(), { kind: 'number', decimals: 3, unit: '', empty: '', group: 1000, wrong: '', test: '' })
const emit = defineEmits<{ change: [value: number | null] }>()
const bench = useWorkbenchIfAny()
const id = useId()
const typed = ref('')
const editing = ref(false)
const unread = ref('')
const shown = computed(() => {
  const v = props.modelValue
  if (v === null) return props.empty
  if (props.kind === 'station') return formatStation(countedAt(v, bench?.equations.value ?? []), { group: props.group }, props.decimals)
  if (props.kind === 'grade') return formatNumber(v * 100, props.decimals)
  return formatNumber(v, props.decimals)
})
watch(shown, (now) => { if (!editing.value) typed.value = now }, { immediate: true })
watch(() => props.modelValue, () => (unread.value = ''))

function start(event: FocusEvent) {
  editing.value = true
  ;(event.target as HTMLInputElement).select()
}
function commit() {
  if (!editing.value) return
  editing.value = false
  const text = typed.value.trim()
  if (text === shown.value || (props.empty !== '' && !text && props.modelValue === null)) return void (typed.value = shown.value)
  if (!text && props.empty !== '') return emit('change', null)
  const typedNumber = parseNumber(text, props.kind)
  const value = typedNumber !== null && props.kind === 'station' && bench ? bench.stationOf(typedNumber) : typedNumber
  if (value === null && typedNumber !== null) {
    unread.value = `There is no chainage ${text}: a chainage equation of this road leaves it out. Type one before or behind the gap.`
    return
  }
  if (value === null) {
    unread.value = `'${text}' is not a number. Type a value such as ${props.kind === 'station' ? '1+240' : props.kind === 'grade' ? '2.5 or 1 in 40' : '12.5'}.`
    return
  }
  unread.value = ''
  emit('change', value)
}
function leave() {
  typed.value = shown.value
  unread.value = ''
  editing.value = false
}
</script>

<template>
  <div :class="compact ? 'number compact' : 'number line'">
    <label :for="id" :class="{ 'visually-hidden': compact }">{{ label }}</label>
    <input
      :id="id" v-model="typed" class="field num" :class="{ bad: unread || wrong }" :disabled="disabled" inputmode="decimal" autocomplete="off" :data-test="test || undefined" :aria-invalid="!!(unread || wrong)" :data-settled="typed === shown"
      @focus="start" @blur="commit" @input="editing = true" @keydown.enter="commit(); ($event.target as HTMLInputElement).select()" @keydown.esc.stop="leave(); ($event.target as HTMLInputElement).blur()"
    />
    <span v-if="!compact" class="unit">{{ unit }}</span>
    <p v-if="unread || wrong" class="wrong" role="alert">{{ unread || wrong }}</p>
  </div>
</template>

<style scoped>
.line { display: grid; grid-template-columns: 1fr 112px 26px; align-items: center; column-gap: 8px; margin: 3px 0; }
.line label { color: var(--faded); }
.unit { color: var(--faded); }
.line .wrong { grid-column: 1 / -1; }
.compact .wrong { white-space: normal; max-width: 200px; }
</style>
