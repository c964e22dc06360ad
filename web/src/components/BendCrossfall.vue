<script setup lang="ts">
/** Crossfall of the chosen PI's bend: the standard's until something is pinned; and of the whole road when no PI is chosen. */
import { computed } from 'vue'
import type { Changes } from '@/api/types'
import { useRefusals } from '@/composables/useRefusals'
import { useWorkbench } from '@/composables/workbench'
import { formatNumber } from '@/lib/format'
import NumberField from './NumberField.vue'
import FoldGroup from './FoldGroup.vue'

const props = defineProps<{ index: number | null }>()
const bench = useWorkbench()
const turning = computed(() => bench.design.value?.crossfall ?? null)
const bend = computed(() => turning.value?.bends.find((b) => b.pi === props.index) ?? null)
const { wrong, run } = useRefusals(bench, () => props.index)
const PLACES = [
  ['level_in', 'Outer half level at'],
  ['full_in', 'Full crossfall from'],
  ['full_out', 'Full crossfall to'],
  ['level_out', 'Outer half level again at'],
] as const
const act = (call: Promise<unknown>, field: string) => run(field, () => call)
const quiet = { silentFailure: true }
const pin = (values: Record<string, number>, field: string) => act(bench.change('bend', bend.value!.pi_id!, values, quiet), field)
const setRoad = (values: Changes['crossfall']) => act(bench.change('crossfall', bench.road.value!.id, values, quiet), 'road')
function place(field: (typeof PLACES)[number][0], station: number | null) {
  if (station === null) return
  const [ts, st] = bench.design.value!.pis[bend.value!.pi]!.stations!
  void pin({ [field]: Math.round((station - (field.endsWith('in') ? ts : st)) * 1000) / 1000 }, field)
}
</script>

<template>
  <template v-if="index !== null">
    <template v-if="bend">
      <FoldGroup title="Crossfall" :note="bend.pinned ? 'pinned' : 'by the standard'">
        <NumberField label="Full crossfall" kind="grade" :model-value="bend.rate" :decimals="1" unit="%" :disabled="!bench.canEdit.value"
            :wrong="wrong.rate" test="bend-rate" @change="(v) => v !== null && pin({ rate: v }, 'rate')" />
        <NumberField v-for="[f, name] in PLACES" :key="f" :label="name" kind="station" :model-value="bend[f]" :decimals="2"
            :group="bench.style.value.group" :disabled="!bench.canEdit.value" :wrong="wrong[f]" :test="`bend-${f}`"
            @change="place(f, $event)" />
        <div v-if="bend.asked" class="value"><span>The standard asks for</span><b>{{ formatNumber(100 * bend.asked, 1) }} %</b></div>
        <div v-if="bend.pinned && bench.canEdit.value" class="actions"><button class="btn" data-test="unpin-bend"
            @click="act(bench.remove('bend', bend!.pi_id!, quiet), 'rate')">Back to the standard's</button></div>
      </FoldGroup>
    </template>
  </template>
  <template v-else-if="turning">
    <FoldGroup title="Crossfall">
      <label class="pick">Turned in bends <select class="field" :value="turning.off ? 'off' : 'on'" :disabled="!bench.canEdit.value"
          data-test="crossfall-off" @change="setRoad({ off: ($event.target as HTMLSelectElement).value === 'off' })"><option
          value="on">by the standard</option><option value="off">not at all</option></select></label>
      <label class="pick">Turns about <select class="field" :value="turning.axis" :disabled="!bench.canEdit.value || turning.off"
          data-test="crossfall-axis"
          @change="setRoad({ axis: ($event.target as HTMLSelectElement).value as NonNullable<Changes['crossfall']['axis']> })"><option
          value="centre">the centre</option><option value="inner">the inner edge</option><option
          value="outer">the outer edge</option></select></label>
      <NumberField label="Runoff on the tangent" kind="grade" :model-value="turning.share ?? 2 / 3" :decimals="0" unit="%"
          :disabled="!bench.canEdit.value || turning.off" @change="(v) => v !== null && setRoad({ share: v > 1 ? v / 100 : v })" />
      <p v-if="wrong.road" class="wrong" role="alert">{{ wrong.road }}</p>
    </FoldGroup>
  </template>
</template>

<style scoped>
.pick { display: grid; grid-template-columns: 1fr 146px; align-items: center; margin: 3px 0; color: var(--faded); }
.pick .field { min-height: 28px; padding: 1px 4px; color: var(--ink); }
</style>
