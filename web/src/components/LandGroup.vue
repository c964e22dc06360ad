<script setup lang="ts">
/** The boundary of the land, the margin beyond toes, and what the road takes. */
import { computed, ref } from 'vue'
import FoldGroup from '@/components/FoldGroup.vue'
import NumberField from '@/components/NumberField.vue'
import { measuredLayers } from '@/composables/measured'
import { useLand } from '@/composables/useLand'
import { useWorkbench } from '@/composables/workbench'
import { sayArea } from '@/lib/units'

const bench = useWorkbench()
const { land, picture } = useLand(bench)
const layers = computed(() => measuredLayers(bench).filter((c) => c.isLine))
const chosen = computed(() => (land.value.survey ? `${land.value.survey}|${land.value.layer}` : ''))
const passed = computed(() => (bench.design.value?.findings ?? []).filter((f) => f.code === 'land-passed').length)
const wrong = ref('')
async function set(to: object) {
  wrong.value = ''
  const done = await bench.change('project', bench.projectId, { land: { ...land.value, ...to } }, { silentFailure: true })
  if (!done) wrong.value = bench.failure.value?.message ?? ''
}
function choose(text: string) {
  const [survey, ...layer] = text.split('|')
  void set(text ? { survey: Number(survey), layer: layer.join('|') } : { survey: null, layer: '' })
}
</script>

<template>
  <FoldGroup title="Land" :count="passed || undefined" alarm>
    <div class="ask wide"><label for="land-boundary">Boundary</label><select id="land-boundary" class="field" :value="chosen"
        :disabled="!bench.canEdit.value" data-test="land-boundary" @change="choose(($event.target as HTMLSelectElement).value)"><option
        value="">none</option><option v-for="c in layers" :key="c.id" :value="c.id">{{ c.name }}</option></select></div>
    <NumberField label="Margin beyond toes" unit="m" :decimals="2" :model-value="land.margin ?? 0" :disabled="!bench.canEdit.value"
        test="land-margin" @change="set({ margin: $event ?? 0 })" />
    <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
    <div v-if="picture" class="value"><span>This road takes</span><b data-test="land-area">{{ sayArea(picture.area, 0) }}</b></div>
    <p v-else class="faded">Choose the layer that bounds the land, or give a margin; the land taken is drawn in plan.</p>
  </FoldGroup>
</template>
