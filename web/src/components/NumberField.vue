<script setup lang="ts">
/** A number as people write it: arithmetic, units, 1 in n, chainages. Says beside the field what is wrong; Esc brings back the value. */
import { until } from '@vueuse/core'
import { computed, nextTick, ref, useId, watch } from 'vue'
import { useWorkbenchIfAny } from '@/composables/workbench'
import { countedAt } from '@/lib/chainage'
import { formatNumber, formatStation } from '@/lib/format'
import { readingsOf, type Reading } from '@/lib/numbers'
import { inUnits, sayFar, units } from '@/lib/units'

const props = withDefaults(
  defineProps<{
    label: string
    modelValue: number | null
    kind?: 'number' | 'station' | 'grade' | 'one_in'
    decimals?: number
    unit?: string
    disabled?: boolean
    wrong?: string
    compact?: boolean
    empty?: string
    group?: number
    test?: string
    /** limits of what may be typed */
    least?: number
    greatest?: number
    /** a change by more than this is asked about first */
    jump?: number
    /** the sentence of a refusal stands elsewhere, beside this field */
    toldElsewhere?: boolean
  }>(),
  {
    kind: 'number',
    decimals: 3,
    unit: '',
    empty: '',
    group: 1000,
    wrong: '',
    test: '',
    least: undefined,
    greatest: undefined,
    jump: undefined,
  },
)
const emit = defineEmits<{ change: [value: number | null] }>()
const bench = useWorkbenchIfAny()
const id = useId()
const typed = ref('')
const editing = ref(false)
const unread = ref('')
const refused = ref(false)
const asked = ref<Reading[]>([])
const question = ref('')
/** What somebody else has made of the value while it is being typed over; both are shown until one of them is taken. */
const theirs = ref('')
const before = ref('')
/** How the value is read and typed; it is kept in SI. */
const own = computed(() => inUnits(props.unit))
const shown = computed(() => {
  const v = props.modelValue
  if (v === null) return props.empty
  if (props.kind === 'station')
    return formatStation(countedAt(v, bench?.equations.value ?? []) / units.value.metre, { group: props.group }, props.decimals)
  if (props.kind === 'grade') return formatNumber(v * 100, props.decimals)
  return formatNumber(v / own.value.per, props.decimals)
})
watch(
  shown,
  (now) => {
    if (!editing.value && !asked.value.length) typed.value = now
    else if (editing.value) theirs.value = now !== before.value && now !== typed.value ? now : ''
  },
  { immediate: true },
)
watch(() => props.modelValue, settled)

function settled() {
  unread.value = ''
  refused.value = false
  asked.value = []
}
function start(event: FocusEvent) {
  editing.value = true
  before.value = shown.value
  theirs.value = ''
  ;(event.target as HTMLInputElement).select()
}
function commit() {
  if (!editing.value) return
  editing.value = false
  theirs.value = ''
  const text = typed.value.trim()
  if (text === before.value && text !== shown.value) return leave() // nothing was typed; theirs stands
  if (text === shown.value || (props.empty !== '' && !text && props.modelValue === null)) return leave()
  if (!text && props.empty !== '') return send(null)
  settled()
  const readings = readingsOf(text, props.kind, props.group)
  if (readings.length > 1) return ask(`'${text}' can be read in two ways:`, readings)
  if (!readings.length) {
    const example = props.kind === 'station' ? '1+240' : props.kind === 'grade' ? '2.5 or 1 in 40' : '12.5'
    unread.value = `'${text}' is not a number. Type a value such as ${example}.`
    return
  }
  take(readings[0]!)
}
function ask(words: string, readings: Reading[]) {
  question.value = words
  asked.value = readings
}
const stationOf = (chainage: number) => (bench ? bench.stationOf(chainage) : chainage)
const limit = (v: number) => +(v / own.value.per).toFixed(props.decimals)
/** A reading that was meant, or is the only one. */
function take(reading: Reading, sure = false) {
  const value =
    props.kind === 'station'
      ? stationOf(reading.value * units.value.metre)
      : props.kind === 'number'
        ? reading.value * own.value.per
        : reading.value
  asked.value = []
  if (value === null) {
    unread.value =
      `There is no chainage ${reading.words}: a chainage equation of this road leaves it out. ` + 'Type one before or behind the gap.'
  } else if ((props.least !== undefined && value < props.least) || (props.greatest !== undefined && value > props.greatest)) {
    const limits =
      props.greatest === undefined
        ? `at least ${limit(props.least!)}`
        : props.least === undefined
          ? `at most ${limit(props.greatest)}`
          : `from ${limit(props.least)} to ${limit(props.greatest)}`
    unread.value = `${reading.words} is outside what can be taken here: ${limits}${own.value.unit ? ` ${own.value.unit}` : ''}.`
  } else if (!sure && props.jump !== undefined && props.modelValue !== null && Math.abs(value - props.modelValue) > props.jump) {
    ask(`That is ${sayFar(Math.abs(value - props.modelValue))} from where it is, more than the whole project is wide. Is it meant?`, [
      reading,
    ])
  } else send(value)
}
function send(value: number | null) {
  settled()
  emit('change', value)
  void shownAsTaken()
}
/** The field shows what the model holds: a refused value stays, marked and with its reason, until it is changed or let go. */
async function shownAsTaken() {
  await nextTick()
  if (bench && bench.acting.value) await until(bench.acting).toBe(0)
  await nextTick()
  if (editing.value || typed.value === shown.value) return
  const why = props.wrong || bench?.failure.value?.message
  if (!why) return void (typed.value = shown.value)
  refused.value = true
  if (!props.wrong && !props.toldElsewhere) unread.value = why
}
function leave() {
  settled()
  theirs.value = ''
  typed.value = shown.value
  editing.value = false
}
</script>

<template>
  <div :class="compact ? 'number compact' : 'number line'">
    <label :for="id" :class="{ 'visually-hidden': compact }">{{ label }}</label>
    <input
      :id="id" v-model="typed" class="field num" :class="{ bad: unread || wrong || refused || asked.length }" :disabled="disabled"
      inputmode="decimal" autocomplete="off" :data-test="test || undefined" :aria-invalid="!!(unread || wrong || refused)"
      :data-settled="typed === shown"
      @focus="start" @blur="commit" @input="editing = true" @keydown.enter="commit(); ($event.target as HTMLInputElement).select()"
      @keydown.esc.stop="leave(); ($event.target as HTMLInputElement).blur()"
    />
    <span v-if="!compact" class="unit">{{ own.unit }}</span>
    <p v-if="asked.length" class="wrong" role="alert" data-test="asked">{{ question }} <button v-for="r in asked" :key="r.words"
        class="link" type="button" data-test="reading" @click="take(r, true)">{{ r.words }}</button></p>
    <p v-else-if="theirs" class="theirs" role="status"
        data-test="theirs">Somebody has meanwhile made it {{ theirs }}{{ own.unit ? ` ${own.unit}` : '' }}. Enter saves yours, Esc keeps
        theirs.</p>
    <p v-else-if="unread || wrong" class="wrong" role="alert">{{ unread || wrong }}</p>
  </div>
</template>

<style scoped>
.line { display: grid; grid-template-columns: 1fr 112px 26px; align-items: center; column-gap: 8px; margin: 3px 0; }
.line label { color: var(--faded); }
.unit { color: var(--faded); }
.theirs { margin: 2px 0; font-size: 12px; color: #8a5a12; }
.line .theirs { grid-column: 1 / -1; }
.line .wrong { grid-column: 1 / -1; }
.wrong .link { margin-left: 8px; }
.compact .wrong, .compact .theirs { white-space: normal; max-width: 200px; text-align: left; }
</style>
