<script setup lang="ts">
import { useWorkbench } from '@/composables/workbench'

const bench = useWorkbench()
</script>

<template>
  <div v-for="(p, step) in bench.problems.value" :key="step" class="card fault" role="alert" data-test="problem">{{ p.sentence }}</div>
</template>
