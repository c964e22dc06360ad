<script setup lang="ts">
/** What of the line stays as it is while the rest is worked on: a PI, the straights beside it, or its whole curve. */
import { computed } from 'vue'
import { useWorkbench } from '@/composables/workbench'

const props = defineProps<{ index: number }>()
const bench = useWorkbench()
const pis = computed(() => bench.design.value?.pis ?? [])
const pi = computed(() => pis.value[props.index] ?? null)
const before = computed(() => pis.value[props.index - 1] ?? null)
const inner = computed(() => props.index > 0 && props.index + 1 < pis.value.length)
const curve = computed(() => !!pi.value?.held && pi.value.straight_held && !!before.value?.straight_held)
function hold(index: number, what: 'pi' | 'straight' | 'curve', held: boolean) {
  const p = pis.value[index]!
  return bench.put('pi', p.id!, 'held', { what, held })
}
</script>

<template>
  <fieldset v-if="pi?.id && (bench.canEdit.value || pi.held || pi.straight_held || before?.straight_held)" class="holds"
      :disabled="!bench.canEdit.value">
    <legend>Held</legend>
    <label class="tick"><input type="checkbox" :checked="pi.held" data-test="hold-pi" @change="hold(index, 'pi', !pi.held)"
        /> the PI</label>
    <label v-if="before" class="tick"><input type="checkbox" :checked="before.straight_held" data-test="hold-straight-before"
        @change="hold(index - 1, 'straight', !before.straight_held)" /> the straight from PI {{ index }}</label>
    <label v-if="index + 1 < pis.length" class="tick"><input type="checkbox" :checked="pi.straight_held" data-test="hold-straight"
        @change="hold(index, 'straight', !pi.straight_held)" /> the straight to PI {{ index + 2 }}</label>
    <label v-if="inner" class="tick"><input type="checkbox" :checked="curve" data-test="hold-curve" @change="hold(index, 'curve', !curve)"
        /> the curve, with all of these</label>
  </fieldset>
</template>

<style scoped>
.holds { border: 0; padding: 0; margin: 6px 0; display: grid; gap: 2px; }
.tick { display: flex; gap: 6px; align-items: center; }
.holds legend { color: var(--faded); padding: 0; }
</style>
