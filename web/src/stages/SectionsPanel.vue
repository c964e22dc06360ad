<script setup lang="ts">
/** Stage 4: the part in hand as sentences, values, areas and remarks; without one, what the template is. */
import { computed, ref, shallowRef, watch } from 'vue'
import { api } from '@/api/client'
import type { Crossings } from '@/api/types'
import PartAreas from '@/components/bench/PartAreas.vue'
import PartRules from '@/components/bench/PartRules.vue'
import PartValues from '@/components/bench/PartValues.vue'
import { useWorkbench } from '@/composables/workbench'
import { sayLength } from '@/lib/units'

const bench = useWorkbench()
const shop = bench.partBench
const tab = ref<'rules' | 'values' | 'areas' | 'remarks'>('values')
const TABS = [
  ['values', 'Values'],
  ['rules', 'Rules'],
  ['areas', 'Areas'],
  ['remarks', 'Remarks'],
] as const
const part = shop.part
watch(
  () => shop.subject.value?.kind,
  (kind) => kind === 'part' && (tab.value = 'rules'),
)
const told = computed(() => part.value?.data as { remark?: string; end?: string; nodes: { name: string }[] } | undefined)
const passed = computed(() => shop.answer.value?.passed.filter((p) => p.side === shop.inHand.value?.side &&
    p.node.startsWith(`${shop.inHand.value.id}.`)) ?? [])
const crossings = shallowRef<Crossings | null>(null)
const listed = ref(false)
const seen = computed(() => (bench.road.value && shop.users.value.includes(bench.road.value.name) ?
    `${bench.road.value.id} ${bench.saved.value?.key}` : ''))
watch(seen, () => (crossings.value = null))
watch([seen, listed], async () => {
  if (!listed.value || crossings.value || !bench.road.value || !seen.value) return
  crossings.value = await api.get<Crossings>(`/roads/${bench.road.value.id}/crossings`).catch(() => null)
})
const of = (side: string) => (side === 'left' ? 'left' : 'right')
const set = (fields: object) => shop.change([{ do: 'describe', ...fields }])
</script>

<template>
  <h2>{{ part?.label ?? shop.template.value?.name ?? 'Sections' }}
    <small v-if="part && shop.own.value === null">library<template v-if="bench.canEdit.value && shop.template.value"> · <button class="link"
        data-test="copy-to-change" @click="shop.copyToChange">copy to change</button></template></small>
    <small v-else-if="part">own part</small><small v-else>stage 4</small></h2>
  <template v-if="part">
    <div class="tabs" role="tablist">
      <button v-for="[k, name] in TABS" :key="k" role="tab" class="btn quiet" :class="{ on: tab === k }" :aria-selected="tab === k"
          :data-test="`tab-${k}`" @click="tab = k">{{ name }}</button>
    </div>
    <PartValues v-if="tab === 'values'" />
    <PartRules v-else-if="tab === 'rules' && shop.library.value" />
    <PartAreas v-else-if="tab === 'areas'" />
    <template v-else-if="tab === 'remarks'">
      <template v-if="shop.own.value !== null && bench.canEdit.value">
        <label>Name <input class="field" :value="part.label" data-test="part-label"
            @change="set({ label: ($event.target as HTMLInputElement).value })" /></label>
        <label>Remark <textarea class="field" rows="3" :value="told?.remark" data-test="part-remark"
            @change="set({ remark: ($event.target as HTMLTextAreaElement).value })" /></label>
        <label>The next part begins at <select class="field" :value="told?.end" data-test="part-end"
            @change="set({ end: ($event.target as HTMLSelectElement).value })"><option
                v-for="n in new Set(['start', ...(told?.nodes ?? []).map((x) => x.name)])"
            :key="n" :value="n">{{ n }}</option></select></label>
      </template>
      <p v-else>{{ told?.remark }}</p>
    </template>
    <p v-for="f in part.faults.filter((x) => x.where.node === undefined)" :key="f.sentence" class="card fault">{{ f.sentence }}</p>
    <div v-for="p in passed" :key="p.node" class="value" data-test="passed-by"><span>{{ p.takes_last ? 'First' : 'Last' }} crossing would
        be</span>
      <b>{{ sayLength(p.nearer, 2) }} {{ p.takes_last ? 'nearer' : 'farther' }}</b></div>
  </template>
  <template v-else>
    <p v-if="!shop.subject.value" class="faded">There is no template yet.</p>
    <p v-else class="faded">Choose a part: in the row over the drawing, or in the drawing itself. {{
      shop.users.value.length ? `Used by ${shop.users.value.join(', ')}; they follow at once.` : 'No road uses it yet.' }}</p>
  </template>
  <template v-if="seen">
    <hr />
    <button class="link" :aria-expanded="listed" data-test="list-crossings" @click="listed = !listed">Along {{ bench.road.value?.name }}:
        where first
      and last crossing differ</button>
    <template v-if="listed">
      <p v-if="crossings && !crossings.rows.length" class="faded">Nowhere, at {{ crossings.sections }} sections.</p>
      <table v-else-if="crossings" class="grid"><thead><tr><th>{{ bench.project.value?.settings.chainage_word }}</th><th>side</th><th
          class="num">moves by</th></tr></thead>
        <tbody><tr v-for="(r, i) in crossings.rows" :key="i"><td><button class="link"
            @click="bench.setMark(r.station); shop.groundKind.value = 'road'">{{ bench.station(r.station) }}</button></td>
          <td>{{ of(r.side) }}</td><td class="num">{{ sayLength(Math.abs(r.last - r.first), 2) }}</td></tr></tbody></table>
      <p v-if="crossings?.left_out" class="faded">and {{ crossings.left_out }} more farther along</p>
    </template>
  </template>
</template>

<style scoped>
.tabs { display: flex; gap: 2px; margin: 4px 0 8px; }
label { display: block; color: var(--faded); margin: 4px 0; }
</style>
