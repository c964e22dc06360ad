<script setup lang="ts">
/** Tie an end of the road to a place on another one: the nearest, or a chainage that is typed. */
import { computed, ref } from 'vue'
import { useWorkbench } from '@/composables/workbench'
import { useUi } from '@/stores/ui'
import NumberField from './NumberField.vue'

const props = defineProps<{ end: 'start' | 'end' }>()
const emit = defineEmits<{ done: [] }>()
const bench = useWorkbench()
const ui = useUi()
const others = computed(() => (bench.project.value?.roads ?? []).filter((r) => r.id !== ui.roadId))
const other = ref<number | null>(others.value[0]?.id ?? null)
const station = ref<number | null>(null)
const level = ref<'' | 'centre' | 'edge'>('')
const wrong = ref('')
async function tie() {
  wrong.value = ''
  const given = { road: other.value, level: level.value, ...(station.value === null ? {} : { station: station.value }) }
  const done = await bench.put('road', ui.roadId!, `ties/${props.end}`, given, { silentFailure: true })
  if (done) emit('done')
  else wrong.value = bench.failure.value?.message ?? ''
}
</script>

<template>
  <div class="with">
    <select v-model="other" class="field" aria-label="Road to tie it to" data-test="other-road"><option v-for="r in others" :key="r.id"
        :value="r.id">{{ r.name }}</option></select>
    <NumberField label="at its chainage" kind="station" :model-value="station" :group="bench.style.value.group" empty="the nearest"
        test="tie-station" @change="(v) => (station = v)" />
    <select v-model="level" class="field" aria-label="Level of the end" data-test="tie-level"><option value="">level on its
        own</option><option value="centre">level of its centre</option><option value="edge">level of its edge</option></select>
    <button class="btn" data-test="other-take" :disabled="!other" @click="tie">Tie the {{ end }}</button>
    <p v-if="wrong" class="wrong" role="alert" data-test="tie-wrong">{{ wrong }}</p>
  </div>
</template>

<style scoped>
.with { display: grid; gap: 6px; }
</style>
