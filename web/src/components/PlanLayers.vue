<script setup lang="ts">
import { ref } from 'vue'
import { SLOPE_BANDS } from '@/canvas/plan/terrain'
import { useUi } from '@/stores/ui'

const ui = useUi()
const open = ref(false)
const LAYERS = [['heights', 'Terrain colours'], ['contours', 'Contours'], ['triangles', 'Triangles'], ['breaklines', 'Breaklines'], ['mapping', 'Received lines'], ['points', 'Points'], ['flow', 'Flow arrows'], ['spots', 'Spot levels'], ['road', 'Road']] as const
const INTERVALS = [0.25, 0.5, 1, 2, 5, 10]
</script>

<template>
  <div class="layers" :class="{ open }">
    <button class="btn quiet" :aria-expanded="open" data-test="layers" @click="open = !open">{{ open ? 'Layers ‹' : 'Layers ›' }}</button>
    <div v-if="open" class="list">
      <label v-for="[id, name] in LAYERS" :key="id"><input v-model="ui.shown[id]" type="checkbox" :data-test="`layer-${id}`" /> {{ name }}</label>
      <label class="interval">Colours by
        <select v-model="ui.terrainColours" class="field" data-test="terrain-colours"><option value="heights">height</option><option value="slopes">slope</option><option value="shade">shade only</option></select>
      </label>
      <ul v-if="ui.terrainColours === 'slopes'" class="bands"><li v-for="b in SLOPE_BANDS" :key="b.to"><i :style="{ background: `rgb(${b.colour})` }" />{{ b.label }}</li></ul>
      <label class="interval">Contours every
        <select v-model.number="ui.contourInterval" class="field" data-test="contour-interval"><option v-for="i in INTERVALS" :key="i" :value="i">{{ i }} m</option></select>
      </label>
    </div>
  </div>
</template>

<style scoped>
.layers { position: absolute; left: 8px; top: 8px; background: #ffffffe8; border: 1px solid var(--rule); border-radius: 4px; font-size: 12px; }
.list { display: grid; gap: 3px; padding: 2px 10px 8px; }
label { display: flex; gap: 6px; align-items: center; }
.interval { margin-top: 4px; }
.bands { list-style: none; margin: 0; padding: 0; display: grid; grid-template-columns: 1fr 1fr; gap: 0 8px; }
.bands i { display: inline-block; width: 12px; height: 9px; margin-right: 5px; border: 1px solid var(--rule); }
.interval .field { width: 76px; min-height: 24px; padding: 1px 4px; }
</style>
