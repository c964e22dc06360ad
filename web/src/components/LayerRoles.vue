<script setup lang="ts">
/** Layers of a survey and the role each one plays; a role set here wins over the rules. */
import type { GroundRole, SurveyLayer } from '@/api/types'
import { formatNumber } from '@/lib/format'
import { bareLength, units } from '@/lib/units'

/** `narrow`: two lines a layer, for the inspector. */
defineProps<{ layers: SurveyLayer[]; disabled?: boolean; narrow?: boolean }>()
const span = (la: SurveyLayer) => (la.levels ? `${bareLength(la.levels[0], 1)} to ${bareLength(la.levels[1], 1)}` : 'none')
const emit = defineEmits<{ change: [key: string, role: GroundRole] }>()
const ROLES: [GroundRole, string][] = [
  ['spot', 'spot point'],
  ['breakline', 'breakline'],
  ['outer', 'outer boundary'],
  ['hole', 'hole boundary'],
  ['background', 'background'],
  ['ignore', 'ignore'],
  ['unsorted', 'unsorted'],
]
/** What is made of lines can bound, break or lie behind; points can be spots, or be strung into lines by their codes. */
const isLine = (la: SurveyLayer) => la.vertices !== la.count || /line|contour|boundary/.test(la.type)
const fit = (la: SurveyLayer) => ROLES.filter(([r]) => (isLine(la) ? r !== 'spot' : true))
const told = (la: SurveyLayer, role: GroundRole, name: string) =>
  !isLine(la) && ['breakline', 'outer', 'hole'].includes(role) ? `${name}, by code` : name
</script>

<template>
  <div v-if="narrow" data-test="layer-roles">
    <div v-for="la in layers" :key="la.key" class="layer" :class="{ unsorted: la.role === 'unsorted' }">
      <span class="code" :title="la.code">{{ la.code || 'no code' }}</span>
      <select class="field" :value="la.role" :disabled="disabled" :aria-label="`Role of ${la.code || la.type}`"
          :data-test="`role-${la.code || la.type}`"
          @change="emit('change', la.key, ($event.target as HTMLSelectElement).value as GroundRole)"><option v-for="[r, name] in fit(la)"
          :key="r" :value="r">{{ told(la, r, name) }}</option></select>
      <span class="faded">{{ formatNumber(la.count, 0) }} × {{ la.type }}, levels {{ span(la) }}</span>
    </div>
  </div>
  <table v-else class="grid" data-test="layer-roles">
    <thead><tr><th>Layer</th><th>Type</th><th class="num">Objects</th><th
        class="num">Levels {{ units.length }}</th><th>Role</th></tr></thead>
    <tbody>
      <tr v-for="la in layers" :key="la.key" :class="{ unsorted: la.role === 'unsorted' }">
        <td :title="la.code">{{ la.code || 'no code' }}</td><td class="faded">{{ la.type }}</td><td
            class="num">{{ formatNumber(la.count, 0) }}</td>
        <td class="num">{{ span(la) }}</td>
        <td><select class="field role" :value="la.role" :disabled="disabled" :aria-label="`Role of ${la.code || la.type}`"
            :data-test="`role-${la.code || la.type}`"
            @change="emit('change', la.key, ($event.target as HTMLSelectElement).value as GroundRole)"><option
            v-for="[r, name] in fit(la)" :key="r" :value="r">{{ told(la, r, name) }}</option></select></td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table.grid td { padding: 1px 6px; max-width: 130px; overflow: hidden; text-overflow: ellipsis; }
table.grid td .role { width: 124px; text-align: left; }
.layer {
  display: grid; grid-template-columns: 1fr 122px; align-items: center; gap: 0 8px; padding: 3px 0; border-bottom: 1px solid #eee9dd;
}
.layer .code { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.layer .field { min-height: 24px; padding: 1px 4px; }
.layer .faded { grid-column: 1 / -1; font-size: 11px; }
.unsorted .code, .unsorted td:first-child { color: var(--madder); font-weight: 600; }
</style>
