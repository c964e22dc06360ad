<script setup lang="ts">
/** How the line is annotated on the plan: what, how often, how large on paper; styles that the project keeps. */
import { computed, ref } from 'vue'
import { useWorkbench } from '@/composables/workbench'
import { units } from '@/lib/units'
import { formatNumber } from '@/lib/format'
import { counted } from '@/lib/words'
import { useLook } from '@/stores/look'
import { useUi } from '@/stores/ui'
import NumberField from './NumberField.vue'
import FoldGroup from './FoldGroup.vue'

const bench = useWorkbench()
const look = useLook()
const ui = useUi()
const styles = computed(() => bench.project.value?.annotations ?? [])
const name = ref('')
const set = (values: Partial<typeof look.annotation>) => (look.annotation = { ...look.annotation, ...values })
const put = (next: unknown[]) => bench.put('project', bench.projectId, 'annotations', { styles: next })
const told = computed(() => {
  const a = ui.annotated
  if (!a) return ''
  if (look.annotationTrue && a.px < 5) return `At this zoom a text is ${formatNumber(a.px, 1)} px high; zoom in to read it.`
  return a.dropped ? `${counted(a.dropped, 'text')} found no room at this zoom.` : ''
})
async function save() {
  const wanted = name.value.trim()
  if (wanted && (await put([...styles.value.filter((s) => s.name !== wanted), { ...look.annotation, name: wanted }]))) name.value = ''
}
function take(wanted: string) {
  const found = styles.value.find((s) => s.name === wanted)
  if (found) {
    const values: Partial<typeof found> = { ...found }
    delete values.name
    set(values)
  }
}
</script>

<template>
  <FoldGroup title="Annotation on the plan">
    <label v-if="styles.length" class="pick">Style <select class="field" value="" aria-label="Saved style" data-test="annotation-style"
        @change="take(($event.target as HTMLSelectElement).value); ($event.target as HTMLSelectElement).value = ''"><option
        value="">take a saved one …</option><option v-for="s in styles" :key="s.name"
        :value="s.name">{{ s.name }}</option></select></label>
    <NumberField label="For a plan at 1 :" :model-value="look.annotation.scale" :decimals="0" :least="50" :greatest="20000"
        test="annotation-scale" @change="(v) => v && set({ scale: v })" />
    <NumberField label="Marks every" :model-value="look.annotation.tick" :decimals="0" :unit="units.length" :least="1" :greatest="10000"
        test="annotation-tick" @change="(v) => v !== null && set({ tick: v })" />
    <NumberField label="Chainages every" :model-value="look.annotation.text" :decimals="0" :unit="units.length" test="annotation-text"
        :least="1" :greatest="10000" @change="(v) => v !== null && set({ text: v })" />
    <NumberField label="Text height on paper" :model-value="look.annotation.size" :decimals="1" unit="mm" :least="0.5" :greatest="20"
        @change="(v) => v && set({ size: v })" />
    <NumberField label="Away from the line" :model-value="look.annotation.away" :decimals="1" unit="mm" :least="0" :greatest="200"
        @change="(v) => v !== null && set({ away: v })" />
    <label class="tick"><input type="checkbox" :checked="look.annotation.points" @change="set({ points: !look.annotation.points })"
        /> tangent points</label>
    <label class="tick"><input type="checkbox" :checked="look.annotation.elements" @change="set({ elements: !look.annotation.elements })"
        /> radii, parameters and lengths of elements</label>
    <label class="tick"><input v-model="look.annotationTrue" type="checkbox" data-test="annotation-true"
        /> true size on screen, too</label>
    <p v-if="told" class="faded" data-test="annotation-told">{{ told }}</p>
    <div v-if="bench.canEdit.value" class="save"><input v-model="name" class="field" maxlength="60" placeholder="save as …"
        aria-label="Name of the style" data-test="annotation-name" @keydown.enter="save" /><button class="btn quiet"
        data-test="annotation-save" :disabled="!name.trim()" @click="save">Save style</button></div>
  </FoldGroup>
</template>

<style scoped>
.pick { display: grid; grid-template-columns: 1fr 146px; align-items: center; margin: 3px 0; color: var(--faded); }
.tick { display: flex; gap: 6px; align-items: center; margin: 3px 0; }
.save { display: grid; grid-template-columns: 1fr auto; gap: 4px; margin-top: 4px; }
.save .field { min-height: 26px; padding: 1px 6px; min-width: 0; }
</style>
