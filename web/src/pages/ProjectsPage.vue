<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, type AppError } from '@/api/client'
import type { ProjectLine, StandardLine } from '@/api/types'
import NumberField from '@/components/NumberField.vue'
import ProjectCard from '@/components/ProjectCard.vue'
import { useSession } from '@/stores/session'

const session = useSession()
const router = useRouter()
const client = useQueryClient()
const projects = useQuery({ queryKey: ['projects'], queryFn: () => api.get<ProjectLine[]>('/projects') })
const standards = useQuery({ queryKey: ['standards'], queryFn: () => api.get<StandardLine[]>('/standards') })
const name = ref('')
const standard = ref('british_metric')
const speed = ref<number | null>(85)
const unit = ref('m')
const wrong = ref('')
const chosen = computed(() => standards.data.value?.find((s) => s.id === standard.value))
watch(chosen, (s) => {
  if (s && speed.value !== null && speed.value > s.greatest_speed) speed.value = s.greatest_speed
})

async function create() {
  wrong.value = ''
  const given = { name: name.value.trim(), standard: standard.value, design_speed: speed.value, length_unit: unit.value }
  try {
    const made = await api.post<ProjectLine>('/projects', given)
    await client.invalidateQueries({ queryKey: ['projects'] })
    await router.push({ name: 'workbench', params: { id: made.id } })
  } catch (error) {
    wrong.value = (error as AppError).message
  }
}
/** Projects deleted since this page was opened; they can be taken back here. */
const gone = ref<ProjectLine[]>([])
async function remove(p: ProjectLine) {
  try {
    client.setQueryData(['projects'], await api.delete<ProjectLine[]>(`/projects/${p.id}`))
    gone.value = [...gone.value, p]
  } catch (error) {
    wrong.value = (error as AppError).message
  }
}
async function takeBack(p: ProjectLine) {
  try {
    client.setQueryData(['projects'], await api.post<ProjectLine[]>(`/projects/${p.id}/restore`, {}))
    gone.value = gone.value.filter((g) => g.id !== p.id)
  } catch (error) {
    wrong.value = (error as AppError).message
  }
}
async function leave() {
  await session.signOut()
  client.clear()
  await router.replace('/sign-in')
}
</script>

<template>
  <main class="page">
    <header>
      <h1><img src="/ridge.svg" alt="" width="30" /> Ivory Ridge</h1>
      <span class="faded">{{ session.username }} <button class="link" @click="leave">Sign out</button></span>
    </header>
    <section class="box">
      <h2>Projects</h2>
      <p v-if="projects.isPending.value" class="faded" role="status">Loading the projects …</p>
      <p v-if="projects.isError.value" class="wrong" role="alert">{{ projects.error.value?.message }}</p>
      <p v-else-if="projects.data.value?.length === 0" class="faded">You have no project yet. Name one below and start with its ground.</p>
      <ProjectCard v-for="p in projects.data.value" :key="p.id" :project="p" @remove="remove(p)" />
      <p v-for="p in gone" :key="p.id" class="gone" role="status" data-test="project-gone">{{ p.name }} is deleted for everybody in it.
        <button class="link" data-test="project-restore" @click="takeBack(p)">Undo</button></p>
    </section>
    <form class="box new" @submit.prevent="create">
      <h2>New project</h2>
      <label class="wide">Name <input v-model="name" class="field" maxlength="120" required data-test="new-project" /></label>
      <label>Designed by <select v-model="standard" class="field" data-test="new-standard"><option v-for="s in standards.data.value"
          :key="s.id" :value="s.id">{{ s.name }}</option></select></label>
      <NumberField label="Design speed" :model-value="speed" :decimals="0" unit="km/h" :least="20" :greatest="200" test="new-speed"
          @change="(v) => v !== null && (speed = v)" />
      <label>Lengths in <select v-model="unit" class="field" data-test="new-unit"><option value="m">metres</option><option
          value="ft">feet (0.3048 m)</option><option value="us-ft">US survey feet (1200/3937 m)</option></select></label>
      <div class="act"><button class="btn primary" data-test="create-project">Create project</button></div>
      <p v-if="wrong" class="wrong" role="alert" data-test="project-wrong">{{ wrong }}</p>
    </form>
  </main>
</template>

<style scoped>
.page { max-width: 980px; margin: 0 auto; padding: 32px 24px; display: grid; gap: 16px; }
header { display: flex; justify-content: space-between; align-items: center; }
h1 { font-size: 24px; display: flex; gap: 10px; align-items: center; }
.box { background: var(--sheet); border: 1px solid var(--rule); border-radius: 4px; padding: 16px 20px; }
.gone { margin: 8px 12px; }
.new { display: grid; grid-template-columns: 1fr 1fr; gap: 4px 24px; }
.new h2, .wide, .new .wrong { grid-column: 1 / -1; }
.new label { display: grid; grid-template-columns: 120px 1fr; align-items: center; color: var(--faded); }
.new .field { color: var(--ink); }
.act { display: flex; justify-content: flex-end; align-items: center; }
</style>
