<script setup lang="ts">
/** Areas of the part in hand with their materials; and the project's pavement structures. */
import { computed, ref } from 'vue'
import type { PartData } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'
import StructuresForm from './StructuresForm.vue'

const bench = useWorkbench()
const shop = bench.partBench
const data = computed(() => shop.part.value!.data as unknown as PartData)
const may = computed(() => bench.canEdit.value && shop.own.value !== null)
const materials = computed(() => Object.keys(shop.library.value?.materials ?? {}))
const colour = (m: string) => shop.library.value?.materials[m] ?? '#c9c2b2'
const names = computed(() => ['start', ...new Set(data.value.nodes.map((n) => n.name))])
const loop = ref<string[]>([])
</script>

<template>
  <div v-for="(a, i) in data.areas" :key="i" class="area">
    <span class="swatch" :style="{ background: colour(a.material) }" />
    <input class="field" list="materials" :value="a.material" :disabled="!may" :aria-label="`Material of ${a.name}`"
        :data-test="`area-${i}`"
        @change="shop.change([{ do: 'set area', area: i, material: ($event.target as HTMLInputElement).value }])" />
    <span class="loop">{{ a.nodes.join(' – ') }}</span>
    <button v-if="may" class="link" :aria-label="`Delete area ${a.name}`"
        @click="shop.change([{ do: 'remove area', area: i }])">delete</button>
  </div>
  <p v-if="!data.areas.length" class="faded">No areas yet. Take 'Area' over the drawing and click into a loop of nodes.</p>
  <p v-if="may" class="joiner"><label>or by its nodes <select class="field" :value="''" data-test="area-node"
      @change="loop = [...loop, ($event.target as HTMLSelectElement).value]; ($event.target as HTMLSelectElement).value = ''"><option
      value="">a node…</option><option v-for="n in names.filter((x) => !loop.includes(x))" :key="n"
          :value="n">{{ n }}</option></select></label>
    <template v-if="loop.length">{{ loop.join(' – ') }}
      <button class="link" :disabled="loop.length < 3" data-test="area-close"
          @click="shop.change([{ do: 'add area', nodes: loop }]); loop = []">close</button>
      <button class="link" @click="loop = []">forget</button></template></p>
  <datalist id="materials"><option v-for="m in materials" :key="m" :value="m" /></datalist>
  <hr />
  <StructuresForm />
</template>

<style scoped>
.area { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; padding: 3px 0; border-bottom: 1px solid #f0ebdf; font-size: 12px; }
.area .field { width: 130px; min-height: 24px; padding: 0 4px; }
.swatch { width: 14px; height: 14px; border-radius: 3px; border: 1px solid var(--rule); }
.loop { color: var(--faded); }
.joiner { font-size: 12px; }
.joiner .field { width: 110px; min-height: 24px; padding: 0 4px; }
</style>
