<script setup lang="ts">
/** What the checks found in the ground, each with its place and its ways out. */
import { ref } from 'vue'
import type { GroundFinding } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import type { Ground } from '@/composables/useGround'
import { useWorkbench } from '@/composables/workbench'
import { bareLength, sayLength } from '@/lib/units'
import { useUi } from '@/stores/ui'

const props = defineProps<{ ground: Ground }>()
const bench = useWorkbench()
const ui = useUi()
const remarks = ref<Record<string, string>>({})
const keeping = ref('')
const wrong = ref('')

async function answer(f: GroundFinding, how: string, more: Record<string, unknown> = {}) {
  wrong.value = ''
  const s = props.ground.surface.value!
  const done = await bench.post('surface', s.id, 'answers', { key: f.key, how, ...more }, { silentFailure: how === 'keep' })
  if (done) keeping.value = ''
  else wrong.value = bench.failure.value?.message ?? ''
}
const show = (f: GroundFinding) => f.place && (ui.goTo = { e: f.place[0], n: f.place[1] })
</script>

<template>
  <p v-if="ground.failed.value" class="card fault" role="alert">{{ ground.failed.value }}</p>
  <p v-else-if="ground.checking.value && (!ground.findings.value || ground.seen.value)" class="faded" role="status"
      data-test="ground-checking">The checks are running …</p>
  <template v-if="ground.findings.value && !ground.seen.value">
    <p v-if="ground.findings.value.problem" class="card fault" data-test="ground-problem">{{ ground.findings.value.problem }}</p>
    <p v-if="!ground.findings.value.open.length" class="card good">The checks find nothing that is not answered.</p>
    <div v-for="f in ground.findings.value.open" :key="f.key" class="card" :class="f.severity" data-test="ground-finding">
      {{ f.sentence }}
      <div class="ways">
        <button v-if="f.place" class="link" @click="show(f)">Show it</button>
        <template v-if="bench.canEdit.value">
          <button v-if="f.ways.includes('change_over')" class="link" data-test="change-over"
              @click="answer(f, 'change_over')">Change over</button>
          <button v-if="f.ways.includes('leave_out')" class="link" data-test="leave-out" @click="answer(f, 'leave_out')">Leave out</button>
          <button v-if="f.ways.includes('keep')" class="link" data-test="keep"
              @click="keeping = keeping === f.key ? '' : f.key; wrong = ''">Keep</button>
        </template>
      </div>
      <NumberField v-if="bench.canEdit.value && f.ways.includes('set_level')" label="Set level" :model-value="null"
          :empty="f.level === null ? 'type it' : bareLength(f.level, 3)" unit="m" test="set-level"
          @change="(v) => answer(f, 'set_level', { level: v })" />
      <button v-if="bench.canEdit.value && f.ways.includes('set_level') && f.level !== null" class="link" data-test="take-level"
          @click="answer(f, 'set_level')">Use {{ sayLength(f.level, 3) }}, the level around it</button>
      <form v-if="keeping === f.key" class="remark" @submit.prevent="answer(f, 'keep', { remark: remarks[f.key] ?? '' })">
        <input v-model="remarks[f.key]" class="field" placeholder="Why it is kept" aria-label="Why it is kept" data-test="remark"
            /><button class="btn">Keep</button>
        <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
      </form>
    </div>
    <details v-if="ground.findings.value.kept.length">
      <summary>{{ ground.findings.value.kept.length }} kept with a remark</summary>
      <div v-for="f in ground.findings.value.kept" :key="f.key" class="card">{{ f.sentence }}<br
          /><i>{{ f.remark }}</i> ({{ f.by }}) <button v-if="bench.canEdit.value" class="link"
          @click="answer(f, 'ask_again')">Ask again</button></div>
    </details>
  </template>
</template>

<style scoped>
.ways { display: flex; flex-wrap: wrap; gap: 4px 14px; margin-top: 3px; }
.remark { display: grid; grid-template-columns: 1fr auto; gap: 6px; margin-top: 6px; }
.remark .wrong { grid-column: 1 / -1; margin: 0; }
summary { cursor: pointer; color: var(--petrol); }
</style>
