<script setup lang="ts">
import { computed, ref } from 'vue'
import { mappingLayers } from '@/canvas/plan/groundLayers'
import { bandColour, bandLimits, SLOPE_BANDS } from '@/canvas/plan/terrain'
import type { Ground } from '@/composables/useGround'
import { useWorkbench } from '@/composables/workbench'
import { units } from '@/lib/units'
import { useLook } from '@/stores/look'

const props = defineProps<{ ground: Ground }>()
const bench = useWorkbench()
const look = useLook()
const open = ref(false)
const LAYERS = [
  ['heights', 'Terrain colours'],
  ['contours', 'Contours'],
  ['triangles', 'Triangles'],
  ['breaklines', 'Breaklines'],
  ['mapping', 'Received lines'],
  ['points', 'Points'],
  ['flow', 'Flow arrows'],
  ['spots', 'Spot levels'],
  ['finished', 'Finished ground'],
  ['road', 'Road'],
] as const
const plain = (v: number) => +(v / units.value.metre).toFixed(2)
const INTERVALS = [0.1, 0.25, 0.5, 1, 2, 5, 10, 20]
const EVERY = [2, 4, 5, 10]
const received = computed(() => (props.ground.lines.value ? mappingLayers(props.ground.lines.value) : []))
const bands = computed(() => {
  const levels = bench.terrain.value?.header.robust_levels as [number, number] | undefined
  if (!levels || look.terrainColours !== 'bands') return []
  const limits = bandLimits(levels, look.contourStep * look.contours.every)
  return limits
    .slice(1)
    .map((to, i) => ({ from: limits[i]!, to, colour: bandColour(i, limits.length - 1) }))
    .reverse()
})
const flip = (record: Record<string, boolean>, id: string) => (record[id] = !record[id])
</script>

<template>
  <div class="layers" :class="{ open }">
    <button class="btn quiet" :aria-expanded="open" data-test="layers"
      @click="open = !open">{{ open ? 'Layers ‹' : 'Layers ›' }}</button>
    <div v-if="open" class="list">
      <template v-for="[id, name] in LAYERS" :key="id">
        <div class="row"><label><input v-model="look.shown[id]" type="checkbox" :data-test="`layer-${id}`" /> {{ name }}</label>
          <button v-if="id !== 'road' && id !== 'finished'" class="dim" :aria-pressed="!!look.dimmed[id]"
              :title="`${name}: ${look.dimmed[id] ? 'full strength' : 'faint'}`" :data-test="`dim-${id}`"
              @click="flip(look.dimmed, id)">{{ look.dimmed[id] ? '◔' : '●' }}</button></div>
        <template v-if="id === 'mapping' && look.shown.mapping">
          <div v-for="layer in received" :key="layer" class="row sub"><label><input type="checkbox" :checked="!look.hiddenLayers[layer]"
              :data-test="`received-${layer}`" @change="flip(look.hiddenLayers, layer)" /> {{ layer }}</label>
            <button class="dim" :aria-pressed="!!look.dimmed[`mapping/${layer}`]"
                :title="`${layer}: ${look.dimmed[`mapping/${layer}`] ? 'full strength' : 'faint'}`"
                @click="flip(look.dimmed, `mapping/${layer}`)">{{ look.dimmed[`mapping/${layer}`] ? '◔' : '●' }}</button></div>
        </template>
      </template>
      <label class="choice">Colours by
        <select v-model="look.terrainColours" class="field" data-test="terrain-colours"><option value="heights">height</option><option
            value="bands">height bands</option><option value="slopes">slope</option><option value="shade">shade only</option></select>
      </label>
      <ul v-if="look.terrainColours === 'slopes'" class="bands"><li v-for="b in SLOPE_BANDS" :key="b.to"><i
          :style="{ background: `rgb(${b.colour})` }" />{{ b.label }}</li></ul>
      <ul v-if="bands.length" class="bands" data-test="height-bands"><li v-for="b in bands" :key="b.to"><i
          :style="{ background: `rgb(${b.colour})` }" />{{ plain(b.from) }} to {{ plain(b.to) }} {{ units.length }}</li></ul>
      <label class="choice">Contours every
        <select v-model.number="look.contours.interval" class="field" data-test="contour-interval"><option v-for="i in INTERVALS" :key="i"
            :value="i">{{ i }} {{ units.length }}</option></select>
      </label>
      <label class="choice">Strong each
        <select v-model.number="look.contours.every" class="field" data-test="contour-every"><option v-for="i in EVERY" :key="i"
            :value="i">{{ +(i * look.contours.interval).toFixed(2) }} {{ units.length }}</option></select>
      </label>
      <div class="choice">Colours <span><input v-model="look.contours.minor" type="color" aria-label="Colour of contours"
          data-test="contour-minor" /> <input v-model="look.contours.major" type="color" aria-label="Colour of strong contours"
          data-test="contour-major" /></span></div>
      <label class="choice">Labels on paths
        <select v-model="look.contours.labelStrong" class="field" data-test="label-strong"><option
            :value="false">every contour</option><option :value="true">strong ones</option></select>
      </label>
      <div class="choice">Decimals, size <span><select v-model.number="look.contours.labelDecimals" class="field small"
          aria-label="Decimals of labels" data-test="label-decimals"><option v-for="d in [0, 1, 2, 3]" :key="d"
          :value="d">{{ d }}</option></select> <select v-model.number="look.contours.labelSize" class="field small"
          aria-label="Size of labels"><option v-for="d in [9, 11, 13, 16]" :key="d" :value="d">{{ d }}</option></select></span></div>
      <label class="row"><span><input v-model="look.contours.rounded" type="checkbox" data-test="contours-rounded"
          /> Rounded contours</span></label>
    </div>
  </div>
</template>

<style scoped>
.layers {
  position: absolute; left: 8px; top: 8px; max-height: calc(100% - 46px); overflow-y: auto; background: #fff;
  border: 1px solid var(--rule); border-radius: 4px; font-size: 12px;
}
.list { display: grid; gap: 2px; padding: 2px 10px 8px; min-width: 188px; }
.row { display: flex; justify-content: space-between; align-items: center; }
.row.sub { padding-left: 18px; color: var(--faded); }
label { display: flex; gap: 6px; align-items: center; }
.dim {
  border: 0; background: none; color: var(--faded); padding: 0 3px; cursor: pointer; font-size: 11px; line-height: 1; min-height: 18px;
}
.choice { display: flex; justify-content: space-between; align-items: center; gap: 6px; margin-top: 3px; }
.choice .field { width: 106px; min-height: 24px; padding: 1px 4px; }
.choice .field.small { width: 50px; }
.choice input[type='color'] { width: 30px; height: 20px; padding: 0; border: 1px solid var(--rule); background: none; }
.bands {
  list-style: none; margin: 0; padding: 0; display: grid; grid-template-columns: 1fr 1fr; gap: 0 8px; font-variant-numeric: tabular-nums;
}
.bands i { display: inline-block; width: 12px; height: 9px; margin-right: 5px; border: 1px solid var(--rule); }
</style>
