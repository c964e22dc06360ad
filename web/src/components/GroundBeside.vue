<script setup lang="ts">
/** What else the long section shows: ground beside the line at offsets and of other surfaces, beds of ditches and channels. */
import { computed } from 'vue'
import { useWorkbench } from '@/composables/workbench'
import { sayLength } from '@/lib/units'
import { useLook } from '@/stores/look'
import NumberField from './NumberField.vue'
import FoldGroup from './FoldGroup.vue'

const bench = useWorkbench()
const look = useLook()
const others = computed(() =>
  (bench.project.value?.surfaces ?? []).filter((s) => s.id !== bench.road.value?.surface_id && s.sources.length),
)
const toggle = (id: number) =>
  (look.longGround = {
    ...look.longGround,
    surfaces: look.longGround.surfaces.includes(id) ? look.longGround.surfaces.filter((s) => s !== id) : [...look.longGround.surfaces, id],
  })
const add = (v: number | null) =>
  v &&
  !look.longGround.offsets.includes(v) &&
  look.longGround.offsets.length < 6 &&
  (look.longGround = { ...look.longGround, offsets: [...look.longGround.offsets, v] })
</script>

<template>
  <FoldGroup title="Shown beside the profile">
    <div v-for="o in look.longGround.offsets" :key="o"
        class="value"><span>{{ sayLength(Math.abs(o), 2) }} {{ o > 0 ? 'right' : 'left' }} of the line</span><button class="btn quiet"
        :aria-label="`Do not show ${sayLength(o, 2)}`"
        @click="look.longGround = { ...look.longGround, offsets: look.longGround.offsets.filter((q) => q !== o) }">×</button></div>
    <NumberField label="Offset, + right" :model-value="null" :decimals="2" unit="m" test="ground-offset" @change="add" />
    <label v-for="s in others" :key="s.id" class="surface"><input type="checkbox" :checked="look.longGround.surfaces.includes(s.id)"
        @change="toggle(s.id)" /> {{ s.name }}</label>
    <label class="surface"><input v-model="look.longBeds" type="checkbox" data-test="long-beds" /> Beds of ditches and channels</label>
  </FoldGroup>
</template>

<style scoped>
.surface { display: flex; gap: 6px; align-items: center; margin: 3px 0; }
</style>
