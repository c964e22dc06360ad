<script setup lang="ts">
/** One case of a part: its name, and the condition under which it is taken. */
import { computed, reactive } from 'vue'
import type { PartCase, PartData } from '@/api/types'

const props = defineProps<{ given: PartCase; part: PartData; wrong: string; index: number | null }>()
const emit = defineEmits<{ keep: [given: PartCase]; remove: []; close: [] }>()
const form = reactive<Record<string, unknown>>({ ...props.given })
const KINDS: [string, string][] = [
  ['in_fill', 'a node lies above the ground'],
  ['in_cut', 'a node lies below the ground'],
  ['height', 'the height over or under the ground is'],
  ['rise', 'the height between two nodes is'],
  ['met', 'a node meets what it looks for'],
  ['not_met', 'a node does not meet it'],
  ['choice', 'a choice says'],
  ['crossfall', 'the side falls'],
  ['otherwise', 'no case before it holds'],
]
const names = computed(() => ['start', ...new Set(props.part.nodes.map((n) => n.name))])
const choices = computed(() => props.part.parameters.filter((p) => p.kind === 'choice'))
const needs = computed(() => ({
  at: ['in_fill', 'in_cut', 'height', 'rise', 'met', 'not_met'].includes(String(form.kind)),
  from: form.kind === 'rise',
  bounds: ['height', 'rise'].includes(String(form.kind)),
}))
function keep() {
  const kept: Record<string, unknown> = { name: form.name, kind: form.kind }
  if (needs.value.at) kept.at = form.at ?? 'start'
  if (needs.value.from) kept.from = form.from ?? 'start'
  if (needs.value.bounds) Object.assign(kept, plain({ least: form.least, greatest: form.greatest }))
  if (form.kind === 'height') kept.of = form.of ?? 'fill'
  if (form.kind === 'crossfall') kept.way = form.way ?? 'outward'
  if (form.kind === 'choice') Object.assign(kept, { parameter: form.parameter ?? choices.value[0]?.name, value: form.value })
  if (props.given.also) kept.also = props.given.also
  emit('keep', kept as PartCase)
}
const plain = (bounds: Record<string, unknown>) =>
  Object.fromEntries(
    Object.entries(bounds)
      .filter(([, v]) => v !== undefined && v !== '')
      .map(([k, v]) => [k, Number.isFinite(Number(v)) ? Number(v) : v]),
  )
const values = computed(() => choices.value.find((p) => p.name === (form.parameter ?? choices.value[0]?.name))?.choices ?? [])
</script>

<template>
  <form class="case-form" data-test="case-form" @submit.prevent="keep">
    <label>case <input v-model="form.name" class="field" data-test="case-name" /></label>
    <label>holds where <select v-model="form.kind" class="field" data-test="case-kind"><option v-for="[k, text] in KINDS" :key="k"
        :value="k">{{ text }}</option></select></label>
    <label v-if="needs.at">node <select v-model="form.at" class="field" data-test="case-at"><option v-for="n in names"
        :key="n">{{ n }}</option></select></label>
    <label v-if="needs.from">from <select v-model="form.from" class="field"><option v-for="n in names"
        :key="n">{{ n }}</option></select></label>
    <label v-if="form.kind === 'height'">of <select v-model="form.of"
        class="field"><option>fill</option><option>cut</option></select></label>
    <template v-if="needs.bounds">
      <label>at least <input v-model="form.least" class="field" /></label>
      <label>at most <input v-model="form.greatest" class="field" /></label>
    </template>
    <label v-if="form.kind === 'crossfall'">way <select v-model="form.way"
        class="field"><option>outward</option><option>inward</option></select></label>
    <template v-if="form.kind === 'choice'">
      <label>choice <select v-model="form.parameter" class="field"><option v-for="p in choices" :key="p.name"
          :value="p.name">{{ p.label }}</option></select></label>
      <label>says <select v-model="form.value" class="field"><option v-for="v in values" :key="v">{{ v }}</option></select></label>
    </template>
    <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
    <div class="acts">
      <button class="btn primary" data-test="case-keep">{{ index === null ? 'Add' : 'Change' }}</button>
      <button v-if="index !== null" type="button" class="btn" data-test="case-remove" @click="emit('remove')">Delete</button>
      <button type="button" class="btn quiet" @click="emit('close')">Cancel</button>
    </div>
  </form>
</template>

<style scoped>
.case-form { border: 1px solid var(--rule); border-radius: 4px; padding: 6px 8px; display: grid; gap: 4px; font-size: 12px; }
.field { width: 180px; min-height: 24px; padding: 0 4px; float: right; }
.acts { display: flex; gap: 6px; }
</style>
