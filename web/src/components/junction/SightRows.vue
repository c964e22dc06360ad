<script setup lang="ts">
/** What a driver sees who waits on the side road, to either hand, against what is asked for. */
import FindingCard from '@/components/FindingCard.vue'
import { useWorkbench } from '@/composables/workbench'
import { sayLength } from '@/lib/units'

const bench = useWorkbench()
const HANDS = ['left', 'right'] as const
</script>

<template>
  <template v-if="bench.junctionSight.value">
    <h3>Seen from the side road</h3>
    <p v-if="bench.junctionSight.value.problem" class="faded">{{ bench.junctionSight.value.problem }}</p>
    <template v-for="a in bench.junctionSight.value.arms" :key="a.arm">
      <div v-for="h in HANDS" :key="h" class="value" :class="{ short: !a[h].enough }" :data-test="`sight-${a.arm}-${h}`">
        <span>To the {{ h }}<template v-if="bench.junctionSight.value.arms.length > 1">, arm {{ a.arm }}</template></span>
        <b>{{ sayLength(a[h].seen, 0) }} of {{ sayLength(a[h].needed, 0) }}</b></div>
      <template v-for="h in HANDS" :key="`${h} end`"><p v-if="!a[h].known_to_the_end" class="faded"
          :data-test="`sight-end-${a.arm}-${h}`">To the {{ h }} nothing is known past {{ sayLength(a[h].reach, 0) }}: the main road, its
        edge or the ground ends there. Make it longer to look further.</p></template>
    </template>
    <FindingCard v-for="f in bench.junctionSight.value.findings" :key="f.sentence" :finding="f" />
  </template>
</template>

<style scoped>
.short b { color: var(--madder); }
</style>
