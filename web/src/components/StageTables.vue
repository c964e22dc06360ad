<script setup lang="ts">
/** What stands in the lower view of the stage 'Line': the table of PIs and elements, or the crossfall diagram. */
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'

const ui = useUi()
const look = useLook()
const KINDS = [
  ['table', 'PIs and elements'],
  ['crossfall', 'Crossfall'],
] as const
</script>

<template>
  <span v-if="ui.stage === 'line'" class="kinds" role="group" aria-label="Lower view">
    <button v-for="[k, name] in KINDS" :key="k" class="btn quiet" :class="{ on: look.lower === k }" :aria-pressed="look.lower === k"
        :data-test="`lower-${k}`" @click="look.lower = k">{{ name }}</button>
  </span>
</template>
