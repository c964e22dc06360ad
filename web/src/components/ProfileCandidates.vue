<script setup lang="ts">
/** Profiles for the same line: one in use, the others drawn beside it, all with their volumes. */
import { computed, ref } from 'vue'
import { useBeside } from '@/composables/useBeside'
import { useWorkbench } from '@/composables/workbench'
import { bareVolume, units } from '@/lib/units'
import { useUi } from '@/stores/ui'
import FoldGroup from './FoldGroup.vue'

const bench = useWorkbench()
const ui = useUi()
const { candidates } = useBeside(bench)
const name = ref('')
const there = computed(() => !!bench.road.value?.candidates.length)
async function add() {
  const wanted = name.value.trim() || `Profile ${(bench.road.value?.candidates.length ?? 0) + 2}`
  if (await bench.post('road', ui.roadId!, 'candidates', { name: wanted })) name.value = ''
}
</script>

<template>
  <FoldGroup title="Profiles for this line">
    <table v-if="there" class="grid" aria-label="Profiles">
      <thead><tr><th>Profile</th><th class="num">Cut {{ units.volume }}</th><th
          class="num">Fill {{ units.volume }}</th><th></th></tr></thead>
      <tbody>
        <tr v-for="c in candidates" :key="c.id" :class="{ here: c.used }" :data-test="`candidate-${c.id || 'first'}`">
          <td><button class="btn quiet pick" :disabled="c.used || !bench.canEdit.value" :title="c.used ? 'In use' : 'Take into use'"
              @click="bench.put('road', ui.roadId!, 'candidate', { id: c.id })">{{ c.used ? '● ' : '○ ' }}{{ c.name }}</button></td>
          <td class="num">{{ c.cut === null ? '–' : bareVolume(c.cut, 0) }}</td><td
              class="num">{{ c.fill === null ? '–' : bareVolume(c.fill, 0) }}</td>
          <td><button v-if="c.id && !c.used && bench.canEdit.value" class="btn quiet" :aria-label="`Delete profile ${c.name}`"
              @click="bench.remove('road', ui.roadId!, {}, `candidates/${c.id}`)">×</button></td>
        </tr>
      </tbody>
    </table>
    <p v-else class="faded">Keep this profile and try another one beside it.</p>
    <div v-if="bench.canEdit.value" class="add"><input v-model="name" class="field" maxlength="60" placeholder="name of a copy"
        aria-label="Name of the copy" data-test="candidate-name" @keydown.enter="add" /><button class="btn quiet"
        data-test="candidate-add" @click="add">Copy and use</button></div>
  </FoldGroup>
</template>

<style scoped>
.pick { padding: 0; text-align: left; }
.add { display: grid; grid-template-columns: 1fr auto; gap: 4px; margin-top: 4px; }
.add .field { min-height: 26px; padding: 1px 6px; min-width: 0; }
</style>
