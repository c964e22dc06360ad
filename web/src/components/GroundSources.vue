<script setup lang="ts">
/** What a surface is made from, in order of priority, and the role of each layer. */
import { ref } from 'vue'
import type { GroundRole, SurveySource } from '@/api/types'
import LayerRoles from '@/components/LayerRoles.vue'
import type { Ground } from '@/composables/useGround'
import { useWorkbench } from '@/composables/workbench'
import { bareLength } from '@/lib/units'
import { counted } from '@/lib/words'

const props = defineProps<{ ground: Ground }>()
const bench = useWorkbench()
const open = ref<number | null>(null)
async function move(index: number, by: number) {
  const ids = props.ground.surface.value!.sources.map((s) => s.id)
  ids.splice(index + by, 0, ...ids.splice(index, 1))
  await props.ground.change({ sources: ids })
}
const leave = (id: number) =>
  props.ground.change({ sources: props.ground.surface.value!.sources.filter((s) => s.id !== id).map((s) => s.id) })
const sort = (s: SurveySource, key: string, role: GroundRole) => bench.change('survey', s.id, { roles: { [key]: role } })
const rename = (s: SurveySource, event: Event) => {
  const name = (event.target as HTMLInputElement).value.trim()
  if (name && name !== s.name) void bench.change('survey', s.id, { name })
}
const unsorted = (s: SurveySource) => s.layers.filter((la) => la.role === 'unsorted').length
</script>

<template>
  <div v-for="(s, i) in ground.surface.value!.sources" :key="s.id" class="source" data-test="source">
    <div class="head">
      <span class="rank">{{ i + 1 }}</span>
      <input class="field name" :value="s.name" :disabled="!bench.canEdit.value" :aria-label="`Name of survey ${i + 1}`"
          @change="rename(s, $event)" />
      <template v-if="bench.canEdit.value">
        <button class="btn quiet" :disabled="i === 0" :aria-label="`${s.name}: more priority`" title="More priority"
            @click="move(i, -1)">↑</button>
        <button class="btn quiet" :disabled="i + 1 === ground.surface.value!.sources.length" :aria-label="`${s.name}: less priority`"
            title="Less priority" @click="move(i, 1)">↓</button>
      </template>
    </div>
    <div class="faded told">
      {{ counted(s.points, 'point') }}{{ s.breaklines ? `, ${counted(s.breaklines, 'line')}` : ''
      }}{{ s.faces ? `, ${counted(s.faces, 'face')}` : '' }} · levels
      {{ bareLength(s.levels[0], 2) }} to {{ bareLength(s.levels[1], 2) }}
      <b v-if="unsorted(s)" class="wrong">· {{ unsorted(s) }} of {{ counted(s.layers.length, 'layer') }} unsorted</b>
    </div>
    <button class="link" :aria-expanded="open === s.id" :data-test="`layers-of-${i + 1}`"
        @click="open = open === s.id ? null :
        s.id">{{ open === s.id ? 'Hide layers' : counted(s.layers.length, 'layer') }}</button>
    <button v-if="bench.canEdit.value && ground.surface.value!.sources.length > 1" class="link"
        @click="leave(s.id)">Take out of the surface</button>
    <div v-if="open === s.id" class="layers"><LayerRoles narrow :layers="s.layers" :disabled="!bench.canEdit.value"
        @change="(key, role) => sort(s, key, role)" /></div>
  </div>
</template>

<style scoped>
.source { margin-bottom: 8px; font-size: 12px; }
.head { display: flex; align-items: center; gap: 4px; }
.rank { font-family: var(--sign); font-weight: 600; width: 14px; }
.name { border-color: transparent; padding: 1px 4px; min-height: 24px; font-weight: 600; }
.name:hover, .name:focus { border-color: var(--rule); }
.head .btn { padding: 0 6px; min-height: 24px; }
.told { margin-left: 22px; }
.link { margin-left: 22px; }
.layers { overflow-x: auto; margin-top: 4px; }
</style>
