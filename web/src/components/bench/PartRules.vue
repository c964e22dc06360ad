<script setup lang="ts">
/** The part in hand as sentences with slots: which case holds and why, its nodes, its edges. */
import { computed, ref } from 'vue'
import type { PartCase, PartData, PartNode, RuleTold } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
import { sentenceOf } from '@/lib/sentence'
import { useUi } from '@/stores/ui'
import CaseForm from './CaseForm.vue'
import SlotField from './SlotField.vue'

const bench = useWorkbench()
const shop = bench.partBench
const ui = useUi()
const data = computed(() => shop.part.value!.data as unknown as PartData)
const may = computed(() => bench.canEdit.value && shop.own.value !== null)
const rules = computed(() => new Map((shop.library.value?.rules ?? []).map((r) => [r.kind, r])))
const rule = (n: PartNode): RuleTold | undefined => rules.value.get(n.rule.kind)
const reason = computed(() =>
  shop.answer.value?.reasons.find((r) => r.side === shop.inHand.value?.side && r.part === shop.inHand.value.id),
)
const wrong = ref<{ node: number; sentence: string } | null>(null)
const faults = computed(() => shop.part.value?.faults ?? [])
const faultOf = (i: number) => faults.value.filter((f) => f.where.node === i).map((f) => f.sentence)
const chosen = computed(() => (ui.selection?.kind === 'part' ? ui.selection.id : ''))
const dependents = ref('')

async function step(i: number, s: { do: string } & Record<string, unknown>) {
  wrong.value = null
  const done = await shop.change([s], { silentFailure: true })
  if (!done && bench.failure.value) wrong.value = { node: i, sentence: bench.failure.value.message }
  return done
}
const setSlot = (i: number, slot: string, value: string | number) => step(i, { do: 'set slot', node: i, slot, value })
const promote = (i: number, slot: string, name: string) => step(i, { do: 'promote', node: i, slot, name })
const setNode = (i: number, fields: object) => step(i, { do: 'set node', node: i, ...fields })
async function remove(i: number, n: PartNode, all = false) {
  dependents.value = ''
  const done = await step(i, { do: 'remove node', node: n.name, dependents: all })
  if (!done) dependents.value = n.name
}
/** Only slots that may be left empty and are: a place to fill them. */
const unfilled = (n: PartNode) =>
  (rule(n)?.slots ?? []).filter((s) => s.usual !== null && (n.rule[s.name] ?? '') === '' && ['within', 'arriving'].includes(s.name))
const more = ref<number | null>(null)
const renaming = ref<number | null>(null)
const editing = ref<{ index: number | null; case: PartCase } | null>(null)
async function keepCase(given: PartCase) {
  const e = editing.value!
  const done = await step(-1, e.index === null ? { do: 'add case', case: given } : { do: 'set case', index: e.index, case: given })
  if (done) editing.value = null
}
const add = () => step(-1, { do: 'add node', since: chosen.value || data.value.end, by: [1, -0.025] })
const places = computed(() => ['start', ...new Set(data.value.nodes.map((n) => n.name))])
const joined = ref<string[]>([])
const inCases = (n: PartNode) => n.cases ?? []
const toggle = (i: number, n: PartNode, name: string) =>
  setNode(i, { cases: inCases(n).includes(name) ? inCases(n).filter((c) => c !== name) : [...inCases(n), name] })
</script>

<template>
  <div v-if="reason" class="card" :class="reason.case ? 'good' : 'doubt'" data-test="case-holds">
    <b v-if="reason.case">{{ reason.case }} holds here</b><b v-else>No case is taken here</b>: {{ reason.why }}.
  </div>
  <p v-if="data.cases.length || may" class="cases">
    <button v-for="(c, i) in data.cases" :key="c.name" class="case" :class="{ on: c.name === reason?.case }" :disabled="!may"
        :data-test="`case-${c.name}`" @click="editing = { index: i, case: { ...c } }">{{ c.name }}</button>
    <button v-if="may" class="link" data-test="add-case"
        @click="editing = { index: null, case: { name: '', kind: 'in_fill', at: 'start' } }">+ case</button>
  </p>
  <CaseForm v-if="editing" :given="editing.case" :part="data" :wrong="wrong?.node === -1 ? wrong.sentence : ''" :index="editing.index"
      @keep="keepCase" @remove="step(-1, { do: 'remove case', index: editing.index }); editing = null" @close="editing = null" />
  <ol class="nodes">
    <li v-for="(n, i) in data.nodes" :key="i" :class="{ on: n.name === chosen }" :data-test="`rule-${n.name}`"
        @click="ui.selection = { kind: 'part', id: n.name }">
      <b v-if="renaming !== i" @dblclick="may && (renaming = i)">{{ n.name }}</b>
      <input v-else class="field renamed" :value="n.name" aria-label="Name of the node" autofocus
          @change="setNode(i, { name: ($event.target as HTMLInputElement).value }); renaming = null" @blur="renaming = null" />
      <span v-if="n.guide" class="tag">not built</span><span v-if="n.role" class="tag">{{ n.role }}</span>
      <span v-for="c in inCases(n)" :key="c" class="tag case-tag" :class="{ here: c === reason?.case }">{{ c }}</span>:
      <template v-if="rule(n)"><template v-for="(t, k) in sentenceOf(rule(n)!, n.rule)" :key="'slot' in t ? t.slot.name : k"><span
          v-if="'text' in t">{{ t.text }}</span><SlotField
          v-else :slot-told="t.slot" :value="n.rule[t.slot.name]" :part="data" :disabled="!may" :test="`slot-${n.name}-${t.slot.name}`"
          @set="setSlot(i, t.slot.name, $event)" @promote="promote(i, t.slot.name, $event)" /></template></template>
      <p v-if="wrong?.node === i" class="wrong" role="alert">{{ wrong.sentence }}</p>
      <p v-for="f in faultOf(i)" :key="f" class="wrong">{{ f }}</p>
      <template v-if="may && n.name === chosen">
        <p class="acts">
          <SlotField v-for="s in unfilled(n)" :key="s.name" :slot-told="s" :value="''" :part="data" :test="`slot-${n.name}-${s.name}`"
              @set="setSlot(i, s.name, $event)" />
          <button class="link" data-test="node-rename" @click.stop="renaming = i">rename</button>
          <button class="link" data-test="node-more" @click.stop="more = more === i ? null : i">more</button>
          <button class="link" data-test="node-delete" @click.stop="remove(i, n)">delete</button>
          <button v-if="dependents === n.name" class="link danger" data-test="node-delete-all"
              @click.stop="remove(i, n, true)">delete with those that need it</button>
        </p>
        <div v-if="more === i" class="more" @click.stop>
          <label>rule <select class="field" :value="n.rule.kind" data-test="node-rule"
              @change="step(i, { do: 'set rule', node: i, kind: ($event.target as HTMLSelectElement).value })"><option
              v-for="r in rules.values()" :key="r.kind" :value="r.kind">{{ r.about }}</option></select></label>
          <label>role <input class="field" list="line-roles" :value="n.role ?? ''" data-test="node-role"
              @change="setNode(i, { role: ($event.target as HTMLInputElement).value })" /></label>
          <label>remark <input class="field" :value="n.remark ?? ''"
              @change="setNode(i, { remark: ($event.target as HTMLInputElement).value })" /></label>
          <label><input type="checkbox" :checked="n.guide" data-test="node-guide"
              @change="setNode(i, { guide: ($event.target as HTMLInputElement).checked })" /> guide only, not built</label>
          <p v-if="data.cases.length">only in <button v-for="c in data.cases" :key="c.name" class="case"
              :class="{ on: inCases(n).includes(c.name) }"
              :aria-pressed="inCases(n).includes(c.name)" :data-test="`node-case-${c.name}`"
                  @click="toggle(i, n, c.name)">{{ c.name }}</button></p>
          <p v-if="data.cases.length > 1">otherwise in <button v-for="c in data.cases" :key="c.name" class="link"
              @click="step(i, { do: 'place in cases', node: i, cases: [c.name] })">{{ c.name }} </button></p>
        </div>
      </template>
    </li>
  </ol>
  <p v-if="may"><button class="link" data-test="add-node-sentence" @click="add">+ Add a node after
    {{ chosen || (data.end === 'start' ? 'the start' : data.end) }}</button>, or click into the drawing</p>
  <p v-if="wrong?.node === -1 && !editing" class="wrong" role="alert">{{ wrong.sentence }}</p>
  <hr />
  <div v-for="(r, i) in data.runs" :key="`r${i}`" class="run">
    <span><b>{{ r.nodes.join(' – ') }}</b>{{ r.name ? ` (${r.name})` : '' }}</span>
    <template v-if="may">
      <label v-for="role in ['finished', 'formation']" :key="role"><input type="checkbox" :checked="r.roles.includes(role)"
          :data-test="`run-${i}-${role}`"
          @change="step(-1, { do: 'set run', run: i, roles: r.roles.includes(role) ? r.roles.filter((x) => x !== role) : [...r.roles,
              role] })" />
        {{ role }}</label>
      <button class="link" :aria-label="`Delete the run ${r.nodes.join(', ')}`"
          @click="step(-1, { do: 'remove run', run: i })">delete</button>
    </template>
    <span v-else class="faded">{{ r.roles.join(', ') }}</span>
  </div>
  <p v-if="may" class="joiner"><label>join <select class="field" data-test="join-node" :value="''"
      @change="joined = [...joined, ($event.target as HTMLSelectElement).value]; ($event.target as HTMLSelectElement).value = ''"><option
      value="">a node…</option><option v-for="p in places.filter((x) => !joined.includes(x))" :key="p"
          :value="p">{{ p }}</option></select></label>
    <template v-if="joined.length">{{ joined.join(' – ') }}
      <button class="link" data-test="join-done" :disabled="joined.length < 2"
          @click="step(-1, { do: 'join', nodes: joined, roles: [] }); joined = []">join</button>
      <button class="link" @click="joined = []">forget</button></template></p>
  <datalist id="line-roles"><option v-for="r in bench.project.value?.roles ?? []" :key="r.name" :value="r.name" /></datalist>
</template>

<style scoped>
.cases { display: flex; flex-wrap: wrap; gap: 6px; }
.case { border: 1px solid var(--rule); border-radius: 9px; background: none; padding: 0 8px; font-size: 12px; cursor: pointer; }
.case.on { border-color: var(--moss); background: var(--moss-wash); }
.nodes { list-style: none; margin: 8px 0; padding: 0; display: grid; gap: 2px; }
.nodes li { padding: 5px 8px; border-left: 3px solid transparent; line-height: 1.75; cursor: default; }
.nodes li.on { border-color: var(--petrol); background: #f2f7f7; }
.tag { border: 1px solid var(--rule); border-radius: 9px; padding: 0 6px; font-size: 11px; color: var(--faded); margin-left: 4px; }
.case-tag.here { border-color: var(--moss); color: var(--moss); }
.acts { display: flex; flex-wrap: wrap; gap: 10px; font-size: 12px; margin: 2px 0 0 !important; align-items: center; }
.danger { color: var(--madder); }
.more { display: grid; gap: 4px; font-size: 12px; }
.more .field { width: 150px; min-height: 24px; padding: 0 4px; margin-left: 4px; }
.renamed { width: 120px; min-height: 22px; padding: 0 4px; }
.run { display: flex; flex-wrap: wrap; gap: 8px; font-size: 12px; padding: 3px 0; border-bottom: 1px solid #f0ebdf; }
.joiner { font-size: 12px; }
.joiner .field { width: 110px; min-height: 24px; padding: 0 4px; }
</style>
