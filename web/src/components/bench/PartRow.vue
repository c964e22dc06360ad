<script setup lang="ts">
/** The template in hand: which one, what is done with it as a whole, and its row of parts from left over the centre to right. */
import { computed, ref } from 'vue'
import { useWorkbench } from '@/composables/workbench'
import type { SideName } from '@/bench/partBench'
import SmallDrawing from './SmallDrawing.vue'

defineProps<{ part: 'head' | 'row' }>()
const library = defineModel<boolean>('library')
const bench = useWorkbench()
const shop = bench.partBench
const naming = ref(false)
const name = ref('')
const templates = computed(() => bench.project.value?.templates ?? [])
const held = computed(() => {
  const s = shop.subject.value
  return s ? `${s.kind}-${s.id}` : ''
})
function pick(value: string) {
  const [kind, id] = value.split('-') as ['template' | 'part', string]
  shop.picked.value = { kind, id: Number(id) }
  shop.chosen.value = null
}
async function saveAs() {
  naming.value = false
  if (name.value.trim()) await shop.newTemplate(name.value.trim(), shop.template.value?.id)
  name.value = ''
}
const useHere = () => bench.road.value && shop.template.value && bench.change('road', bench.road.value.id, { template_id:
    shop.template.value.id })
const drop = () => shop.template.value && bench.remove('template', shop.template.value.id)

// --- the row ---
interface Tile {
  side: SideName
  id: string
  label: string
  lines: [string, [number, number][]][]
  areas: [string, [number, number][]][]
}
const tiles = computed(() => {
  const of = (side: SideName): Tile[] =>
    (shop.template.value?.[side] ?? []).map((p) => {
      const s = shop.answer.value?.sides.find((x) => x.side === side)
      const own = (s?.nodes ?? []).map((n, i) => ({ ...n, i })).filter((n) => n.name.startsWith(`${p.id}.`))
      const inRun = new Set(s?.links.flatMap((l) => [l.from, l.to]))
      const line = own.filter((n) => inRun.has(n.i))
      const before = s?.links.find((l) => l.to === line[0]?.i)?.from
      const first = before === undefined ? [] : [s!.nodes[before]!]
      return { side, id: p.id, label: p.label, lines: [['finished', [...first, ...line].map((n) => [n.offset, n.level])]], areas: [] }
    })
  return { left: of('left').reverse(), right: of('right') }
})
const on = (t: Tile) => shop.inHand.value?.side === t.side && shop.inHand.value.id === t.id
const choose = (t: Tile) => (shop.chosen.value = { side: t.side, id: t.id })
let dragged: Tile | null = null
const moved = (t: Tile, to: number) =>
  shop.editSides(
    t.side,
    (rows) => {
      const from = rows.findIndex((r) => r.id === t.id)
      const rest = rows.filter((r) => r.id !== t.id)
      return [...rest.slice(0, to), rows[from]!, ...rest.slice(to)]
    },
    'Move a part',
  )
function dropOn(t: Tile) {
  const d = dragged
  dragged = null
  if (!d || d.side !== t.side || d.id === t.id) return
  const rows = shop.rows.value[t.side]
  void moved(d, rows.findIndex((r) => r.id === t.id))
}
function key(event: KeyboardEvent, t: Tile) {
  if (!bench.canEdit.value) return
  const rows = shop.rows.value[t.side]
  const at = rows.findIndex((r) => r.id === t.id)
  const out = (t.side === 'right' ? 1 : -1) * (event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0)
  if (out && at + out >= 0 && at + out < rows.length) {
    event.preventDefault()
    void moved(t, at + out)
  } else if (event.key === 'Delete') {
    event.preventDefault()
    event.stopPropagation()
    void takeOut(t)
  }
}
/** The part on the other side too, at the same place, with the same values. */
function mirror(t: Tile) {
  const other = t.side === 'left' ? 'right' : 'left'
  const own = shop.rows.value[t.side]
  const at = own.findIndex((r) => r.id === t.id)
  const rest = shop.rows.value[other].filter((r) => r.id !== t.id)
  return shop.setRows({ [other]: [...rest.slice(0, at), own[at]!, ...rest.slice(at)] }, 'Mirror a part')
}
const takeOut = (t: Tile) => shop.editSides(t.side, (rows) => rows.filter((r) => r.id !== t.id), 'Take out a part')
</script>

<template>
  <template v-if="part === 'head'">
    <select v-if="held" class="field which" aria-label="Template on the bench" data-test="bench-subject" :value="held"
        @change="pick(($event.target as HTMLSelectElement).value)">
      <option v-for="t in templates" :key="t.id" :value="`template-${t.id}`">{{ t.name }}</option>
      <optgroup v-if="bench.project.value?.parts.length" label="Own parts alone">
        <option v-for="p in bench.project.value.parts" :key="p.id" :value="`part-${p.id}`">{{ p.label }}</option>
      </optgroup>
    </select>
    <button class="btn quiet" :class="{ on: library }" data-test="bench-library" @click="library = !library">Library</button>
    <select v-if="templates.length > 1" class="field compare" aria-label="Compare with" data-test="bench-compare"
        :value="shop.compared.value ?? ''"
        @change="shop.compared.value = Number(($event.target as HTMLSelectElement).value) || null">
      <option value="">Compare with…</option>
      <option v-for="t in templates.filter((x) => x.id !== shop.template.value?.id)" :key="t.id" :value="t.id">{{ t.name }}</option>
    </select>
    <template v-if="bench.canEdit.value">
      <button v-if="!naming" class="btn quiet" data-test="save-as"
          @click="naming = true">{{ shop.template.value ? 'Save as…' : 'New template…' }}</button>
      <input v-else v-model="name" class="field which" placeholder="Name of the template" aria-label="Name of the template"
          data-test="save-as-name" autofocus @keydown.enter="saveAs" @keydown.esc.stop="naming = false" />
      <button v-if="shop.template.value && bench.road.value && bench.road.value.template_id !== shop.template.value.id" class="btn"
          data-test="use-template" @click="useHere">Use for {{ bench.road.value.name }}</button>
      <button v-if="shop.template.value && !shop.users.value.length" class="btn quiet" data-test="drop-template"
          @click="drop">Delete</button>
    </template>
    <a v-if="shop.template.value" class="link out" download
        :href="`/api/projects/${bench.projectId}/parts.json?template=${shop.template.value.id}`">Save to a file</a>
  </template>
  <div v-else-if="shop.template.value && !library" class="row" role="group" aria-label="Parts of the template">
    <template v-for="side in (['left', 'right'] as const)" :key="side">
      <span v-if="side === 'right'" class="centre" aria-hidden="true" />
      <div v-for="t in tiles[side]" :key="`${side}${t.id}`" class="tile" :class="{ on: on(t) }" draggable="true"
          @dragstart="dragged = t" @dragover.prevent @drop.prevent="dropOn(t)">
        <button class="face" :aria-pressed="on(t)" :data-test="`part-${side}-${t.id}`" @click="choose(t)" @keydown="key($event, t)">
          <SmallDrawing :lines="t.lines" :areas="t.areas" :width="76" :height="26" />
          {{ t.label }}
        </button>
        <button v-if="on(t) && bench.canEdit.value" class="x mirror" :aria-label="`Copy ${t.label} to the other side`"
            title="Copy to the other side" :data-test="`mirror-${t.side}-${t.id}`" @click="mirror(t)">⇄</button>
        <button v-if="on(t) && bench.canEdit.value" class="x" :aria-label="`Take ${t.label} out`" :data-test="`take-out-${side}-${t.id}`"
            @click="takeOut(t)">×</button>
      </div>
    </template>
    <button v-if="bench.canEdit.value" class="tile plus" aria-label="Add a part" data-test="add-part" @click="library = true">+</button>
    <span class="users">used by<br /><b>{{ shop.users.value.join(', ') || 'no road' }}</b></span>
  </div>
</template>

<style scoped>
.which { width: 190px; min-height: 26px; padding: 1px 6px; }
.compare { width: 134px; min-height: 26px; padding: 1px 6px; }
.out { padding: 0 6px; font-size: 12px; }
.row { display: flex; gap: 5px; padding: 5px 8px; border-bottom: 1px solid var(--rule); overflow-x: auto; flex: none; align-items: stretch; }
.tile { border: 1px solid var(--rule); border-radius: 4px; background: var(--sheet); position: relative; flex: 0 1 auto; min-width: 66px; overflow: hidden; }
.tile.on { border: 2px solid var(--petrol); background: var(--petrol-wash); }
.face {
  border: 0; background: none; padding: 3px 6px 2px; cursor: pointer; font-size: 12px; display: flex; flex-direction: column;
  align-items: center; max-width: 132px; width: 100%; line-height: 1.2;
}
.tile.on .face { font-weight: 600; }
.x { position: absolute; top: 0; right: 2px; border: 0; background: none; cursor: pointer; color: var(--faded); padding: 0 3px; }
.x.mirror { right: auto; left: 2px; }
.plus { border-style: dashed; width: 36px; min-width: 36px; flex: none; cursor: pointer; font-size: 16px; color: var(--faded); }
.centre { border-left: 1px dashed var(--ochre); margin: 0 3px; }
.users { margin-left: auto; flex: none; white-space: nowrap; font-size: 12px; color: var(--faded); text-align: right; align-self: center; }
.users b { font-weight: 500; color: var(--petrol); }
</style>
