<script setup lang="ts">
/**
 * What is done with a whole line: parallel, reverse, split, join, tie an end, bring lines in; and how a line without PIs of its own is
 * kept.
 */
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import type { Acted } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
import { sayLength } from '@/lib/units'
import { useUi } from '@/stores/ui'
import NumberField from './NumberField.vue'
import FoldGroup from './FoldGroup.vue'
import TieEnd from './TieEnd.vue'
import { counted } from '@/lib/words'

const bench = useWorkbench()
const ui = useUi()
const doing = ref<'' | 'parallel' | 'join' | 'start' | 'end'>('')
const other = ref<number | null>(null)
const wrong = ref('')
const road = computed(() => bench.road.value)
const others = computed(() => (bench.project.value?.roads ?? []).filter((r) => r.id !== ui.roadId))
const nameOf = (id: number) => bench.project.value?.roads.find((r) => r.id === id)?.name ?? 'a road that is gone'
const parallel = computed(() => (road.value?.course.kind === 'offset' ? road.value.course : null))
const ties = computed(() =>
  (['start', 'end'] as const).filter((e) => road.value?.ties[e]).map((e) => ({ end: e, ...road.value!.ties[e]! })),
)
const ENDS = { start: 'Start', end: 'End' }

const quiet = { silentFailure: true }
async function after(act: Promise<Acted | null>) {
  wrong.value = ''
  const done = await act
  if (done) {
    doing.value = ''
    if (done.road_id) ui.roadId = done.road_id
  } else wrong.value = bench.failure.value?.message ?? ''
}
const post = (what: string, more: object = {}) => after(bench.post('road', road.value!.id, what, more, quiet))
const makeParallel = (offset: number | null) =>
  offset && after(bench.act(() => api.post<Acted>(`/projects/${bench.projectId}/parallels`, { road: ui.roadId, offset }), quiet))
interface Offer {
  upload: number
  name: string
  lines: { name: string; length: number; straights: number; arcs: number }[]
  told: string[]
}
const offer = ref<Offer | null>(null)
const chosen = ref<number[]>([])
const looking = ref(false)
async function look(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  const form = new FormData()
  form.append('file', file)
  wrong.value = ''
  offer.value = null
  looking.value = true
  try {
    const { upload, name } = await api.post<{ upload: number; name: string }>(`/projects/${bench.projectId}/uploads`, form)
    const which = new FormData()
    which.append('upload', String(upload))
    const found = await api.post<Omit<Offer, 'upload' | 'name'>>(`/projects/${bench.projectId}/lines/offered`, which)
    offer.value = { upload, name, ...found }
    chosen.value = found.lines.length === 1 || !name.toLowerCase().endsWith('.dxf') ? found.lines.map((_, i) => i) : []
  } catch (error) {
    wrong.value = (error as Error).message
  } finally {
    looking.value = false
  }
}
async function bringIn() {
  const form = new FormData()
  form.append('upload', String(offer.value!.upload))
  for (const i of chosen.value) form.append('chosen', String(i))
  await after(bench.act(() => api.post<Acted>(`/projects/${bench.projectId}/lines`, form), quiet))
  if (!wrong.value) offer.value = null
}
function choose(what: typeof doing.value) {
  doing.value = doing.value === what ? '' : what
  other.value = others.value[0]?.id ?? null
  wrong.value = ''
}
</script>

<template>
  <template v-if="road">
    <template v-if="parallel">
      <p class="faded">Parallel to {{ nameOf(parallel.road) }}{{ parallel.against ? ', run against it' : '' }}; it follows.</p>
      <NumberField label="Offset, + right" :model-value="parallel.offset" :decimals="3" unit="m" :disabled="!bench.canEdit.value"
          test="line-offset" @change="(v) => v !== null && after(bench.change('parallel', road!.id, { offset: v }, quiet))" />
      <div v-if="bench.canEdit.value" class="actions"><button class="btn" data-test="line-free"
          @click="post('free')">Set free</button><button class="btn" data-test="line-convert"
          @click="post('convert')">Lay out by PIs</button></div>
    </template>
    <template v-else-if="road.course.kind === 'elements'">
      <p class="faded">Kept element by element, as it came. The PIs shown are those it would have.</p>
      <div v-if="bench.canEdit.value" class="actions"><button class="btn" data-test="line-convert"
          @click="post('convert')">Lay out by PIs</button></div>
    </template>
    <div v-for="t in ties" :key="t.end"
        class="tie"><span>{{ ENDS[t.end] }} is tied to {{ nameOf(t.road) }} at {{ bench.station(t.station) }}</span><button
        v-if="bench.canEdit.value" class="btn quiet" :data-test="`untie-${t.end}`"
        @click="after(bench.remove('road', road!.id, quiet, `ties/${t.end}`))">Untie</button></div>
  </template>
  <template v-if="bench.canEdit.value">
    <FoldGroup title="Whole line">
      <div class="actions">
        <template v-if="road && bench.design.value?.line">
          <button class="btn quiet" :class="{ on: doing === 'parallel' }" data-test="line-parallel"
              @click="choose('parallel')">Parallel …</button>
          <button class="btn quiet" data-test="line-reverse" @click="post('reverse')">Reverse</button>
          <button class="btn quiet" data-test="line-delete" @click="after(bench.remove('road', road!.id, quiet))">Delete road</button>
          <button class="btn quiet" data-test="line-split" :title="`Split the road at the reading mark, ${bench.station(ui.mark)}`"
              @click="post('split', { station: ui.mark })">Split at mark</button>
          <template v-if="others.length">
            <button class="btn quiet" :class="{ on: doing === 'join' }" data-test="line-join" @click="choose('join')">Join …</button>
            <button v-for="e in (['start', 'end'] as const).filter((x) => !road!.ties[x] && !road!.course.kind)" :key="e"
                class="btn quiet" :class="{ on: doing === e }" :data-test="`line-tie-${e}`" @click="choose(e)">Tie {{ e }} …</button>
          </template>
        </template>
        <label class="btn quiet file">Lines of a file … <input type="file" accept=".xml,.landxml,.dxf" class="visually-hidden"
            title="Lines of a LandXML file or a DXF drawing" data-test="lines-file" @change="look" /></label>
      </div>
      <NumberField v-if="doing === 'parallel'" label="Offset, + right" :model-value="null" :decimals="3" unit="m" test="parallel-offset"
          @change="makeParallel" />
      <TieEnd v-if="doing === 'start' || doing === 'end'" :key="doing" :end="doing" @done="doing = ''" />
      <div v-if="doing === 'join'" class="with">
        <select v-model="other" class="field" aria-label="Road that goes on" data-test="other-road"><option v-for="r in others" :key="r.id"
            :value="r.id">{{ r.name }}</option></select>
        <button class="btn" data-test="other-take" @click="post('join', { road: other })">Join it</button>
      </div>
      <p v-if="looking" class="faded" data-test="lines-looking">The file is being read …</p>
      <div v-if="offer" class="with" data-test="lines-offer">
        <b>{{ counted(offer.lines.length, 'line') }} in {{ offer.name }}</b>
        <div class="offered">
          <label v-for="(l, i) in offer.lines" :key="i" class="line"><input v-model="chosen" type="checkbox" :value="i"
              :data-test="`line-offer-${i}`"
              /><span>{{ l.name }}<small>{{ counted(l.straights, 'straight') }}, {{ counted(l.arcs, 'arc') }}</small></span><span
              class="num">{{ sayLength(l.length, 2) }}</span></label>
        </div>
        <p v-for="t in offer.told" :key="t" class="faded">{{ t }}</p>
        <div class="actions"><button class="btn" :disabled="!chosen.length" data-test="lines-take"
            @click="bringIn">Bring in {{ counted(chosen.length, 'line') }}</button><button class="btn quiet"
            @click="offer = null">Leave it</button></div>
      </div>
      <p v-if="wrong" class="wrong" role="alert" data-test="line-wrong">{{ wrong }}</p>
    </FoldGroup>
  </template>
</template>

<style scoped>
.tie { display: flex; justify-content: space-between; align-items: baseline; gap: 6px; }
.with { display: grid; gap: 6px; }
.offered { max-height: 240px; overflow-y: auto; display: grid; gap: 2px; }
.line { display: grid; grid-template-columns: auto 1fr auto; gap: 8px; align-items: baseline; }
.line small { display: block; color: var(--faded); }
.file { position: relative; cursor: pointer; }
.file:focus-within { outline: 2px solid var(--petrol); }
</style>
