<script setup lang="ts">
/** What varies along the road as a list: each row is opened by a click; new ones take the marked range. */
import { ref } from 'vue'
import FoldGroup from '@/components/FoldGroup.vue'
import { KIND_NAMES, useAlong } from '@/composables/useAlong'
import { useWorkbench } from '@/composables/workbench'
import type { AlongRow } from '@/api/types'
import AlongForm from './AlongForm.vue'
import AlongNew from './AlongNew.vue'

const bench = useWorkbench()
const along = useAlong(bench)
const adding = ref<AlongRow['kind'] | null>(null)
const ADD: [AlongRow['kind'], string][] = [
  ['stretch', 'Stretch'],
  ['adjustment', 'Value'],
  ['change', 'Part'],
  ['bare', 'No earthwork'],
  ['follow', 'Plane'],
  ['led', 'Led node'],
  ['meet', 'Meet existing'],
]
const kinds = Object.keys(KIND_NAMES) as AlongRow['kind'][]
const ofKind = (k: AlongRow['kind']) => along.rows.value.filter((r) => r.kind === k)
const sideWord = (r: AlongRow) => (r.side !== 'both' && ['adjustment', 'change', 'led'].includes(r.kind) ? `${r.side}, ` : '')
</script>

<template>
  <FoldGroup title="Along the road" :count="along.rows.value.length || undefined">
    <p v-if="bench.saved.value && !along.rows.value.length" class="faded">The template holds from end to end. Add what differs over a
      range.</p>
    <template v-for="k in kinds" :key="k">
      <h4 v-if="ofKind(k).length">{{ KIND_NAMES[k] }}</h4>
      <div v-for="r in ofKind(k)" :key="r.id" class="row" :class="{ on: along.chosen.value?.id === r.id }">
        <button class="line" :data-test="`along-row-${r.id}`" :aria-expanded="along.chosen.value?.id === r.id"
            @click="along.choose(r.id)">
          <span>{{ sideWord(r) }}{{ r.said }}</span>
          <small>{{ bench.station(r.station_from, 0) }} – {{ bench.station(r.station_to, 0) }}</small></button>
        <p v-if="r.problem" class="wrong" role="alert">{{ r.problem }}</p>
        <AlongForm v-if="along.chosen.value?.id === r.id" :row="r" />
      </div>
    </template>
    <!-- what a new row begins with is read off the road, so the form waits for it, and begins anew on another road -->
    <AlongNew v-if="adding && bench.saved.value" :key="`${bench.saved.value.road_id} ${adding}`" :kind="adding" @done="adding = null" />
    <div v-else-if="!adding && bench.canEdit.value" class="adds"><span class="faded">Add</span>
      <button v-for="[k, name] in ADD" :key="k" class="btn quiet" :data-test="`along-add-${k}`"
          @click="adding = k">{{ name }}</button></div>
  </FoldGroup>
</template>

<style scoped>
h4 { margin: 8px 0 2px; font-size: 12px; color: var(--faded); font-weight: 600; }
.row { border-radius: 4px; margin: 0 -4px; padding: 0 4px; }
.row.on { background: var(--petrol-wash); padding-bottom: 6px; }
.line { display: flex; justify-content: space-between; gap: 8px; width: 100%; border: 0; background: none; text-align: left; padding: 3px 0;
  cursor: pointer; align-items: baseline; }
.line:hover { color: var(--petrol); }
.line span { min-width: 0; overflow: hidden; text-overflow: ellipsis; }
.line small { color: var(--faded); white-space: nowrap; }
.adds { display: flex; flex-wrap: wrap; align-items: center; margin: 6px 0; font-size: 13px; }
.adds .btn { padding: 0 5px; white-space: nowrap; font-size: 13px; }
</style>
