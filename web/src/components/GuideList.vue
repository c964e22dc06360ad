<script setup lang="ts">
/** Guide lines by numbers: gradients, points, and by how much one is raised or lowered; hidden, shown, deleted. */
import NumberField from '@/components/NumberField.vue'
import { useGuides } from '@/composables/useGuides'
import { useWorkbench } from '@/composables/workbench'
import { formatGrade } from '@/lib/format'
import type { Guide } from '@/api/types'
import FoldGroup from './FoldGroup.vue'
import { bareLength } from '@/lib/units'

const bench = useWorkbench()
const { guides, change, drop, clear } = useGuides(bench)
const parent = (g: Guide) => {
  const id = g.of ?? ''
  const i = bench.design.value?.pvis.findIndex((p) => `after-${p.id}` === id) ?? -1
  return i >= 0 ? `the grade after PVI ${i + 1}` : `guide ${id}`
}
</script>

<template>
  <template v-if="guides.length">
    <FoldGroup title="Guide lines">
      <div v-for="g in guides" :key="g.id" class="guide" :data-test="`guide-row-${g.id}`">
        <div class="head"><b>{{ g.id }}</b><span>{{ formatGrade(g.line[2]) }}</span>
          <template v-if="bench.canEdit.value"><button class="link"
              @click="change(g.id, { hidden: !g.hidden })">{{ g.hidden ? 'Show' : 'Hide' }}</button><button class="link"
              :data-test="`guide-delete-${g.id}`" @click="drop(g.id)">Delete</button></template></div>
        <p v-if="g.within" class="faded">From {{ bench.station(g.within[0]) }} to {{ bench.station(g.within[1]) }}, at
          {{ bareLength(g.level!, 3) }} there at its start.</p>
        <NumberField v-else-if="g.kind === 'grade'" label="Gradient" kind="grade" :decimals="3" unit="%" :model-value="g.grade!"
            :disabled="!bench.canEdit.value" :test="`guide-grade-${g.id}`" @change="(v) => v !== null && change(g.id, { grade: v })" />
        <template v-if="g.within" /><template v-else-if="g.kind === 'grade'">
          <NumberField label="Through chainage" kind="station" :decimals="3" :group="bench.style.value.group" :model-value="g.station!"
              :disabled="!bench.canEdit.value" @change="(v) => v !== null && change(g.id, { station: v })" />
          <NumberField label="at level" :model-value="g.level!" unit="m" :disabled="!bench.canEdit.value"
              @change="(v) => v !== null && change(g.id, { level: v })" />
        </template>
        <p v-else-if="g.kind === 'points'"
            class="faded">Through {{ bench.station(g.first![0]) }} at {{ bareLength(g.first![1], 3) }} and
            {{ bench.station(g.second![0]) }} at {{ bareLength(g.second![1], 3) }}</p>
        <template v-else>
          <NumberField :label="g.rise! >= 0 ? 'Raised' : 'Lowered'" :model-value="Math.abs(g.rise!)" unit="m"
              :disabled="!bench.canEdit.value" :test="`guide-rise-${g.id}`"
              @change="(v) => v !== null && change(g.id, { rise: Math.sign(g.rise! || 1) * v })" />
          <p class="faded">from {{ parent(g) }}</p>
        </template>
      </div>
      <button v-if="guides.length > 1 && bench.canEdit.value" class="link" data-test="guides-clear" @click="clear">Delete all
        {{ guides.length }} guides</button>
    </FoldGroup>
  </template>
</template>

<style scoped>
.guide { border-bottom: 1px solid #f0ebdf; padding: 4px 0; }
.head { display: flex; gap: 8px; align-items: baseline; }
.head b { color: #47631f; width: 18px; }
.head span { margin-right: auto; font-weight: 600; }
p { margin: 2px 0; font-size: 12px; }
</style>
