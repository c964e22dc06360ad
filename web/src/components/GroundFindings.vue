<script setup lang="ts">
/** What the checks found in the ground, each with its place and its ways out. */
import { computed, ref } from 'vue'
import type { GroundFinding } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import type { Ground } from '@/composables/useGround'
import { useWorkbench } from '@/composables/workbench'
import { inGroups } from '@/lib/alike'
import { bareLength, sayLength } from '@/lib/units'
import { useUi } from '@/stores/ui'

const props = defineProps<{ ground: Ground }>()
const bench = useWorkbench()
const ui = useUi()
const remarks = ref<Record<string, string>>({})
const keeping = ref('')
const wrong = ref('')

const groups = computed(() => {
  const open = props.ground.findings.value?.open ?? []
  return inGroups(open, (f) => `${f.severity} ${f.ways.join()}`).map((g) => ({ ...g, keys: g.all.map((f) => f.key) }))
})
const opened = ref<string | null>(null)
/** Cards as they are shown: a group as one, and what is in it when it is opened. */
const cards = computed(() =>
  groups.value.flatMap((g) => [
    { id: g.id, f: g.first, keys: g.keys, inside: false },
    ...(opened.value === g.id ? g.all.map((f) => ({ id: f.key, f, keys: [f.key], inside: true })) : []),
  ]),
)

async function answer(keys: string[], how: string, more: Record<string, unknown> = {}) {
  wrong.value = ''
  const s = props.ground.surface.value!
  const done = await bench.post('surface', s.id, 'answers', { keys, how, ...more }, { silentFailure: how === 'keep' })
  if (done) keeping.value = ''
  else wrong.value = bench.failure.value?.message ?? ''
}
const all = (keys: string[]) => (keys.length > 1 ? ` all ${keys.length}` : '')
const show = (f: GroundFinding) => f.place && (ui.goTo = { e: f.place[0], n: f.place[1] })
</script>

<template>
  <p v-if="ground.failed.value" class="card fault" role="alert">{{ ground.failed.value }}</p>
  <p v-else-if="ground.checking.value && (!ground.findings.value || ground.seen.value)" class="faded" role="status"
      data-test="ground-checking">The checks are running …</p>
  <template v-if="ground.findings.value && !ground.seen.value">
    <p v-if="ground.findings.value.problem" class="card fault" data-test="ground-problem">{{ ground.findings.value.problem }}</p>
    <p v-if="!ground.findings.value.open.length" class="card good">The checks find nothing that is not answered.</p>
    <div v-for="{ id, f, keys, inside } in cards" :key="id" class="card" :class="[f.severity, { inside }]"
        :data-test="keys.length > 1 ? 'ground-findings' : 'ground-finding'">
      <b v-if="keys.length > 1">{{ keys.length }} alike, such as: </b>{{ f.sentence }}
      <div class="ways">
        <button v-if="keys.length > 1" class="link" :aria-expanded="opened === id" data-test="open-group"
            @click="opened = opened === id ? null : id">{{ opened === id ? 'Close' : 'One by one' }}</button>
        <button v-if="f.place" class="link" @click="show(f)">Show {{ keys.length > 1 ? 'this one' : 'it' }}</button>
        <template v-if="bench.canEdit.value">
          <button v-if="f.ways.includes('change_over')" class="link" data-test="change-over"
              @click="answer(keys, 'change_over')">Change over{{ all(keys) }}</button>
          <button v-if="f.ways.includes('leave_out')" class="link" data-test="leave-out"
              @click="answer(keys, 'leave_out')">Leave out{{ all(keys) }}</button>
          <button v-if="f.ways.includes('keep')" class="link" data-test="keep"
              @click="keeping = keeping === id ? '' : id; wrong = ''">Keep{{ all(keys) }}</button>
        </template>
      </div>
      <NumberField v-if="bench.canEdit.value && f.ways.includes('set_level') && keys.length === 1" label="Set level" :model-value="null"
          :empty="f.level === null ? 'type it' : bareLength(f.level, 3)" unit="m" test="set-level"
          @change="(v) => answer(keys, 'set_level', { level: v })" />
      <button v-if="bench.canEdit.value && f.ways.includes('set_level') && f.level !== null" class="link" data-test="take-level"
          @click="answer(keys, 'set_level')">{{ keys.length > 1 ? 'Use the level around each'
            : `Use ${sayLength(f.level, 3)}, the level around it` }}</button>
      <form v-if="keeping === id" class="remark" @submit.prevent="answer(keys, 'keep', { remark: remarks[id] ?? '' })">
        <input v-model="remarks[id]" class="field" placeholder="Why it is kept" aria-label="Why it is kept" data-test="remark"
            /><button class="btn">Keep</button>
        <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
      </form>
    </div>
    <details v-if="ground.findings.value.kept.length">
      <summary>{{ ground.findings.value.kept.length }} kept with a remark</summary>
      <div v-for="f in ground.findings.value.kept" :key="f.key" class="card">{{ f.sentence }}<br
          /><i>{{ f.remark }}</i> ({{ f.by }}) <button v-if="bench.canEdit.value" class="link"
          @click="answer([f.key], 'ask_again')">Ask again</button></div>
    </details>
  </template>
</template>

<style scoped>
.ways { display: flex; flex-wrap: wrap; gap: 4px 14px; margin-top: 3px; }
.inside { margin-left: 12px; }
.remark { display: grid; grid-template-columns: 1fr auto; gap: 6px; margin-top: 6px; }
.remark .wrong { grid-column: 1 / -1; margin: 0; }
summary { cursor: pointer; color: var(--petrol); }
</style>
