<script setup lang="ts">
/** A project in the list: a small plan of its roads, how long they are, who works in it, what was done last. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api } from '@/api/client'
import type { ProjectLine, ProjectSketch } from '@/api/types'
import { when } from '@/lib/dates'
import { formatNumber } from '@/lib/format'
import { UNITS } from '@/lib/units'
import { counted } from '@/lib/words'

const props = defineProps<{ project: ProjectLine }>()
defineEmits<{ remove: [] }>()
const MAY: Record<string, string> = { owner: 'you own it', editor: 'you may change it', viewer: 'you may look at it' }
const W = 132,
  H = 64,
  RIM = 6
const sketch = useQuery({
  queryKey: ['sketch', props.project.id, props.project.last?.at],
  queryFn: () => api.get<ProjectSketch>(`/projects/${props.project.id}/sketch`),
})
const paths = computed(() => {
  const s = sketch.data.value
  if (!s?.lines.length) return []
  const scale = Math.min((W - 2 * RIM) / Math.max(s.width, 1), (H - 2 * RIM) / Math.max(s.height, 1))
  const [x0, y0] = [(W - s.width * scale) / 2, (H + s.height * scale) / 2]
  return s.lines.map((l) => l.map(([e, n], i) => `${i ? 'L' : 'M'}${(x0 + e * scale).toFixed(1)} ${(y0 - n * scale).toFixed(1)}`).join(''))
})
/** In km, or in miles where the project counts feet. */
const length = computed(() => {
  const m = sketch.data.value?.length
  if (!m) return ''
  const metric = (UNITS[props.project.length_unit].metre) === 1
  return metric ? `${formatNumber(m / 1000, 2)} km` : `${formatNumber(m / 1609.344, 2)} mi`
})
</script>

<template>
  <div class="card-row">
    <RouterLink class="row" :to="{ name: 'workbench', params: { id: project.id } }" data-test="project">
      <svg :viewBox="`0 0 ${W} ${H}`" :width="W" :height="H" role="img" :aria-label="`Plan of ${project.name}`"><path
          v-for="(p, i) in paths" :key="i" :d="p" :class="{ first: i === 0 }" /><text v-if="sketch.data.value && !paths.length"
          :x="W / 2" :y="H / 2 + 4" text-anchor="middle">no line yet</text></svg>
      <span class="told">
        <strong>{{ project.name }}</strong>
        <span class="faded">{{ [counted(project.roads, 'road'), length].filter(Boolean).join(', ') }}</span>
        <span class="faded">{{ project.people.join(', ') }}; {{ MAY[project.role] ?? project.role }}</span>
      </span>
      <span class="last faded"><template v-if="project.last"><b>{{ when(project.last.at) }}</b><span>{{ project.last.by }}:
        {{ project.last.label }}</span></template><template v-else>nothing done yet</template></span>
    </RouterLink>
    <button v-if="project.role === 'owner'" class="btn quiet" :aria-label="`Delete ${project.name}`" data-test="delete-project"
        @click="$emit('remove')">Delete</button>
  </div>
</template>

<style scoped>
.card-row { display: grid; grid-template-columns: 1fr auto; align-items: center; border-bottom: 1px solid var(--rule); }
.card-row:hover { background: var(--petrol-wash); }
.row { display: grid; grid-template-columns: 132px 1fr 280px; gap: 16px; padding: 8px 12px; text-decoration: none; color: inherit; }
svg { background: #fff; border: 1px solid var(--rule); border-radius: 4px; }
path { fill: none; stroke: #6c8b92; stroke-width: 1.2; }
path.first { stroke: var(--petrol); stroke-width: 2.2; }
text { font-size: 11px; fill: var(--faded); }
.told, .last { display: grid; gap: 2px; align-content: center; min-width: 0; }
.last { font-size: 12px; }
.last b { font-weight: 500; color: var(--ink); }
.last span { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
@media (max-width: 860px) { .row { grid-template-columns: 132px 1fr; } .last { display: none; } }
</style>
