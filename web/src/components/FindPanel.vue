<script setup lang="ts">
/** Find or do: a chainage, a stage, a road, a PI, a command; by its words. */
import Dialog from 'primevue/dialog'
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import { useWorkbench } from '@/composables/workbench'
import { readingsOf } from '@/lib/numbers'
import { units } from '@/lib/units'
import { STAGES, useUi } from '@/stores/ui'

interface Entry {
  words: string
  hint: string
  go: () => void
}

const bench = useWorkbench()
const ui = useUi()
const text = ref('')
const chosen = ref(0)

const entries = computed<Entry[]>(() => {
  const all: Entry[] = []
  for (const r of text.value.trim() ? readingsOf(text.value, 'station', bench.style.value.group) : []) {
    const s = bench.stationOf(r.value * units.value.metre)
    if (s === null || !bench.design.value?.line) continue
    const [a, b] = bench.limits.value
    all.push({
      words: `Go to ${bench.station(Math.min(Math.max(s, a), b))}`,
      hint: s < a || s > b ? 'nearest end of the road' : 'chainage',
      go: () => bench.setMark(s),
    })
  }
  STAGES.forEach((st, i) => all.push({ words: st.name, hint: `stage ${i + 1} · Alt ${i + 1}`, go: () => (ui.stage = st.id) }))
  bench.project.value?.roads.forEach((r) => all.push({ words: r.name, hint: 'road', go: () => (ui.roadId = r.id) }))
  bench.design.value?.pis.forEach((p, i) =>
    all.push({
      words: `PI ${i + 1}`,
      hint: 'show it in plan',
      go: () => {
        ui.stage = 'line'
        bench.choosePi(i)
        ui.goTo = { e: p.easting, n: p.northing }
      },
    }),
  )
  bench.design.value?.pvis.forEach((p, i) =>
    all.push({
      words: `PVI ${i + 1}`,
      hint: bench.station(p.station),
      go: () => {
        ui.stage = 'levels'
        bench.setMark(p.station)
        ui.selection = { kind: 'pvi', id: p.id }
      },
    }),
  )
  if (bench.canEdit.value) {
    all.push({
      words: 'Bring in a file',
      hint: 'ground',
      go: () => {
        ui.stage = 'ground'
        ui.tool = 'import'
      },
    })
    all.push({
      words: 'Draw road',
      hint: 'line',
      go: () => {
        ui.stage = 'line'
        ui.tool = 'draw-road'
      },
    })
    all.push({
      words: 'Fit profile to ground',
      hint: 'levels',
      go: () => void bench.act(() => api.post(`/roads/${ui.roadId}/profile/fit`, { seen: bench.pvisSeen() })),
    })
    all.push({ words: 'Undo', hint: bench.project.value?.ledger.undo ?? 'nothing to undo', go: () => void bench.step('undo') })
    all.push({ words: 'Redo', hint: bench.project.value?.ledger.redo ?? 'nothing to redo', go: () => void bench.step('redo') })
  }
  for (const [panel, words, hint] of [
    ['shelves', 'Shelves', 'received, worked, issued'],
    ['reports', 'Line reports', 'elements, coordinates, deviation'],
    ['volumes', 'Earthwork report', 'areas and volumes by interval, offset and material'],
    ['ledger', 'Ledger', 'who changed what'],
    ['members', 'Members', 'people of this project'],
    ['settings', 'Project settings', 'limits, chainage'],
    ['keys', 'Keys', 'all keys'],
    ['findings', 'Findings', 'what the checks report'],
  ] as const)
    all.push({ words, hint, go: () => setTimeout(() => (ui.panel = panel)) })
  const wanted = text.value.trim().toLowerCase()
  return all
    .filter((e, i) => !wanted || (i === 0 && e.words.startsWith('Go to')) || `${e.words} ${e.hint}`.toLowerCase().includes(wanted))
    .slice(0, 12)
})
function run(e: Entry | undefined) {
  if (!e) return
  ui.panel = ''
  e.go()
}
</script>

<template>
  <Dialog visible modal dismissable-mask :show-header="false" position="top" :style="{ width: '460px', marginTop: '60px' }"
      :content-style="{ padding: '10px' }" @update:visible="ui.panel = ''">
    <input
      v-model="text" class="field" autofocus placeholder="A chainage (1+240), a place, a command" aria-label="Find or do" role="combobox"
      aria-expanded="true" aria-controls="found" :aria-activedescendant="`found-${chosen}`" data-test="find-input" @input="chosen = 0"
      @keydown.down.prevent="chosen = Math.min(chosen + 1, entries.length - 1)" @keydown.up.prevent="chosen = Math.max(chosen - 1, 0)"
      @keydown.enter.prevent="run(entries[chosen])" @keydown.esc.stop="ui.panel = ''"
    />
    <ul id="found" role="listbox" aria-label="What was found">
      <li v-for="(e, i) in entries" :id="`found-${i}`" :key="e.words + e.hint" role="option" :aria-selected="i === chosen"
          :class="{ on: i === chosen }" @click="run(e)" @mousemove="chosen = i"><span>{{ e.words }}</span><span
          class="faded">{{ e.hint }}</span></li>
    </ul>
    <p v-if="!entries.length" class="faded">Nothing has these words. Try a chainage such as 1+240, or the name of a stage.</p>
  </Dialog>
</template>

<style scoped>
ul { list-style: none; margin: 8px 0 0; padding: 0; }
li { display: flex; justify-content: space-between; gap: 12px; padding: 5px 10px; border-radius: 4px; cursor: pointer; }
li.on { background: var(--petrol-wash); }
</style>
