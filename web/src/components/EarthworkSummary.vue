<script setup lang="ts">
import { computed } from 'vue'
import { useWorkbench } from '@/composables/workbench'
import { bareVolume, sayVolume } from '@/lib/units'
import { useUi } from '@/stores/ui'

const bench = useWorkbench()
const ui = useUi()
const e = computed(() => bench.design.value?.earthwork ?? null)
/** Running totals between two stations of the range, interpolated between sections as the average end area does. */
const inRange = computed(() => {
  if (!e.value || !ui.range) return null
  const at = (totals: number[], s: number) => {
    const st = e.value!.station
    const i = Math.min(
      Math.max(
        st.findIndex((v) => v >= s),
        1,
      ),
      st.length - 1,
    )
    const t = Math.min(Math.max((s - st[i - 1]!) / Math.max(st[i]! - st[i - 1]!, 1e-9), 0), 1)
    return totals[i - 1]! + t * (totals[i]! - totals[i - 1]!)
  }
  const [a, b] = ui.range
  return {
    cut: at(e.value.cumulative_cut, b) - at(e.value.cumulative_cut, a),
    fill: at(e.value.cumulative_fill, b) - at(e.value.cumulative_fill, a),
  }
})
</script>

<template>
  <template v-if="e">
    <div class="value"><span>Cut <i v-if="bench.trial.value" data-test="as-it-would-be">as it would be</i></span>
        <b data-test="total-cut">{{ sayVolume(e.cut, 0) }}</b></div>
    <div class="value"><span>Fill <i v-if="bench.trial.value">as it would be</i></span>
        <b data-test="total-fill">{{ sayVolume(e.fill, 0) }}</b></div>
    <div class="value"><span>Balance <i v-if="bench.trial.value">as it would be</i></span>
        <b>{{ sayVolume(e.cut - e.fill, 0, true) }}</b></div>
    <div v-if="inRange && ui.range"
        class="value"><span>{{ bench.station(ui.range[0], 0) }} to {{ bench.station(ui.range[1], 0) }}</span><b
        data-test="range-volumes">about {{ bareVolume(inRange.cut, 0) }} / {{ sayVolume(inRange.fill, 0) }}</b></div>
  </template>
</template>

<style scoped>
i { color: var(--ochre-text); }
</style>
