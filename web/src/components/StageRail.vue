<script setup lang="ts">
import { useStages } from '@/composables/useStages'
import { useUi } from '@/stores/ui'

const ui = useUi()
const { states } = useStages()
</script>

<template>
  <nav class="rail" aria-label="Stages">
    <button v-for="(s, i) in states" :key="s.id" :class="{ on: ui.stage === s.id }" :title="s.lacks || `${s.name}: nothing is lacking`"
        :aria-current="ui.stage === s.id ? 'step' : undefined" :data-test="`stage-${s.id}`" @click="ui.stage = s.id">
      <span class="number">{{ i + 1 }}</span>
      <svg width="11" height="11" :aria-label="s.state"><circle cx="5.5" cy="5.5" r="4.2" :class="s.state" /><path
          v-if="s.state === 'half'" d="M5.5 1.3a4.2 4.2 0 0 1 0 8.4z" class="halfway" /></svg>
      <span class="name">{{ s.name }}</span>
    </button>
  </nav>
</template>

<style scoped>
.rail { border-right: 1px solid var(--rule); display: flex; flex-direction: column; padding-top: 4px; overflow-y: auto; }
button {
  display: grid; grid-template-columns: 1fr auto; gap: 1px 4px; align-items: center; border: 0; background: none;
  border-left: 3px solid transparent; padding: 8px 8px 9px 9px; text-align: left; cursor: pointer;
}
button:hover { background: #f4eee0; }
button.on { background: var(--petrol-wash); border-left-color: var(--petrol); }
.number { font-size: 11px; color: var(--faded); }
.name { grid-column: 1 / -1; font-family: var(--sign); font-weight: 600; font-size: 15px; line-height: 1.15; }
.on .name { color: var(--petrol); }
circle { fill: none; stroke: #a39b8b; stroke-width: 1.4; }
circle.full { fill: var(--moss); stroke: var(--moss); }
circle.half { stroke: var(--ochre); }
.halfway { fill: var(--ochre); }
</style>
