<script setup lang="ts">
/** A line through measured points: bends with what is held, how the points lie on them; taken as a new road or in place of a line. */
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { api, AppError } from '@/api/client'
import type { Acted, LineFit } from '@/api/types'
import { measuredLayers, type Measured } from '@/composables/measured'
import MeasuredChoice from './MeasuredChoice.vue'
import { useWorkbench } from '@/composables/workbench'
import { bareFine, bareLength, fineUnit, sayFine, units } from '@/lib/units'
import { useUi } from '@/stores/ui'
import NumberField from './NumberField.vue'
import { counted } from '@/lib/words'

type Word = 'radius' | 'spiral_in' | 'spiral_out' | 'start' | 'end'
const WORDS: [Word, string][] = [
  ['radius', 'Radius'],
  ['spiral_in', 'Transition in'],
  ['spiral_out', 'Transition out'],
  ['start', 'Starts at'],
  ['end', 'Ends at'],
]
const bench = useWorkbench()
const ui = useUi()
const chosen = ref<Measured | null>(null)
const way = ref<'fit' | 'vertices'>('fit')
const choices = computed(() => measuredLayers(bench))
const held = ref<Record<number, Partial<Record<Word, number>>>>({})
const fit = shallowRef<LineFit | null>(null)
const pis = shallowRef<LineFit['pis'] | null>(null)
const busy = ref(false)
const wrong = ref('')
const bend = ref(0)
let asked = 0

function clear() {
  fit.value = pis.value = ui.proposal = null
}
async function ask() {
  const mine = ++asked
  wrong.value = ''
  if (!chosen.value) return clear()
  busy.value = true
  try {
    if (way.value === 'vertices') {
      const found = await api.post<{ pis: LineFit['pis'] }>(`/projects/${bench.projectId}/line-vertices`, chosen.value)
      if (mine !== asked) return
      fit.value = null
      pis.value = found.pis
      ui.proposal = { line: found.pis.map((p) => [p.easting, p.northing]), points: [], leftOut: [] }
    } else {
      const found = await api.post<LineFit>(`/projects/${bench.projectId}/line-fit`, {
        ...chosen.value,
        held: held.value,
        bends: Object.keys(held.value).length ? (fit.value?.bends.length ?? null) : null,
      })
      if (mine !== asked) return
      fit.value = found
      pis.value = found.pis
      const every = Math.max(Math.ceil(found.points.length / 800), 1)
      ui.proposal = {
        line: found.line,
        points: found.points.filter((_, i) => i % every === 0),
        leftOut: found.left_out.filter((_, i) => i % every === 0),
      }
    }
  } catch (error) {
    if (!(error instanceof AppError)) throw error
    if (mine === asked) wrong.value = error.message // the last fit stays on screen
  } finally {
    if (mine === asked) busy.value = false
  }
}
watch([chosen, way], () => {
  held.value = {}
  clear()
  void ask()
})
function hold(i: number, word: Word, value: number | null) {
  const own = { ...held.value[i] }
  if (value === null) delete own[word]
  else own[word] = value
  const all = { ...held.value, [i]: own }
  if (!Object.keys(own).length) delete all[i]
  held.value = all
  void ask()
}
/** Radii to the step in which such radii are usually given (common practice). */
const rounded = (r: number) => Math.round(r / (r < 100 ? 1 : r < 500 ? 5 : 10)) * (r < 100 ? 1 : r < 500 ? 5 : 10)
function roundAll() {
  held.value = Object.fromEntries(
    fit.value!.bends.map((b, i) => [
      i,
      {
        ...held.value[i],
        radius: rounded(b.radius),
        spiral_in: Math.round(b.spiral_in / 5) * 5,
        spiral_out: Math.round(b.spiral_out / 5) * 5,
      },
    ]),
  )
  void ask()
}
function release() {
  held.value = {}
  void ask()
}
const isHeld = (i: number, word: Word) => held.value[i]?.[word] !== undefined
const summary = computed(() => {
  const f = fit.value
  if (!f) return ''
  const out = f.left_out.filter(Boolean).length
  const left = out === 1 ? '; 1 lies far off and is not followed' : out ? `; ${out} lie far off and are not followed` : ''
  const beside = `${sayFine(f.rms)} (root mean square)`
  return `${counted(f.count, 'point')}, ${counted(f.bends.length, 'bend')}. They lie ${beside} beside the line${left}.`
})
async function makeRoad() {
  const done = await bench.act(() =>
    api.post<Acted>(`/projects/${bench.projectId}/roads`, {
      name: choices.value.find((c) => c.survey === chosen.value?.survey && c.layer === chosen.value.layer)?.road ?? 'Road',
      pis: pis.value,
    }),
  )
  if (done?.road_id) {
    ui.roadId = done.road_id
    ui.tool = ''
  }
}
async function replace() {
  const done = await bench.put('road', ui.roadId!, 'pis', { pis: pis.value })
  if (done) ui.tool = ''
}
onBeforeUnmount(() => (ui.proposal = null))
</script>

<template>
  <h2>Fit line <small>stage 2</small></h2>
  <div class="pick along"><span>Along</span><MeasuredChoice v-model="chosen" label="Along" empty="measured points or a line …"
      test="fit-measured" /></div>
  <label class="pick">Make <select v-model="way" class="field" data-test="fit-way"><option value="fit">straights and bends</option><option
      value="vertices">a PI at every vertex</option></select></label>
  <p v-if="!chosen"
      class="faded">Choose what was measured along an existing road, in its order. Straights, arcs and transitions are laid through it by
      least squares.</p>
  <p v-if="busy" class="faded" role="status">Fitting …</p>
  <p v-if="wrong" class="wrong" role="alert" data-test="fit-wrong">{{ wrong }}</p>
  <template v-if="fit">
    <p data-test="fit-told">{{ summary }}</p>
    <div v-for="d in fit.doubts" :key="d.sentence" class="card doubt" data-test="fit-doubt">{{ d.sentence }} <button
        v-if="d.bend >= 0 && d.bend !== bend" class="link" @click="bend = d.bend">Show it</button></div>
    <table v-if="fit.bends.length" class="grid" aria-label="Bends">
      <thead><tr><th>Bend</th><th class="num">Radius {{ units.length }}</th><th class="num">rms {{ fineUnit() }}</th><th
          class="num">most {{ fineUnit() }}</th></tr></thead>
      <tbody><tr v-for="(b, i) in fit.bends" :key="i" :class="{ here: bend === i }" :data-test="`fit-bend-${i + 1}`"
          @click="bend = i"><td>{{ i + 1 }} {{ b.turn > 0 ? 'right' : 'left' }}</td><td
          class="num">{{ bareLength(b.radius, 2) }}{{ isHeld(i, 'radius') ? ' held' : '' }}</td><td
          class="num">{{ bareFine(b.rms) }}</td><td class="num">{{ bareFine(b.greatest) }}</td></tr></tbody>
    </table>
    <template v-if="fit.bends[bend]">
      <h3>Bend {{ bend + 1 }} <small>typed values are held, the rest follows</small></h3>
      <div v-for="[w, name] in WORDS" :key="w" class="word">
        <NumberField :label="name" :kind="w === 'start' || w === 'end' ? 'station' : 'number'" :model-value="fit.bends[bend]![w]"
            :decimals="2" :unit="w === 'start' || w === 'end' ? '' : 'm'" :group="bench.style.value.group" :test="`fit-${w}`"
            @change="hold(bend, w, $event)" />
        <button v-if="isHeld(bend, w)" class="btn quiet" :aria-label="`Release ${name.toLowerCase()}`" title="Release"
            @click="hold(bend, w, null)">×</button>
      </div>
    </template>
    <div class="actions"><button v-if="fit.bends.length" class="btn" data-test="fit-round"
        @click="roundAll">Round the values</button><button v-if="Object.keys(held).length" class="btn"
        @click="release">Release all</button></div>
  </template>
  <p v-else-if="pis" data-test="fit-told">{{ pis.length }} PIs without radii.</p>
  <div v-if="pis && bench.canEdit.value" class="actions">
    <button class="btn primary" data-test="fit-make" @click="makeRoad">Make a road</button>
    <button v-if="bench.road.value" class="btn" data-test="fit-replace"
        @click="replace">Replace the line of {{ bench.road.value.name }}</button>
  </div>
  <div class="actions"><button class="btn quiet" @click="ui.tool = ''">Close</button></div>
</template>

<style scoped>
.pick { display: grid; grid-template-columns: 52px 1fr; align-items: center; margin: 3px 0; color: var(--faded); }
.pick .field { min-height: 28px; padding: 1px 4px; color: var(--ink); min-width: 0; }
.along :deep(.field + .field) { grid-column: 2; margin-top: 4px; }
.word { display: grid; grid-template-columns: 1fr auto; align-items: center; }
h3 { display: flex; justify-content: space-between; align-items: baseline; margin: 10px 0 4px; font-size: 13px; }
h3 small { font-weight: 400; font-size: 11px; color: var(--faded); }
tbody tr { cursor: pointer; }
</style>
