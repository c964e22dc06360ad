<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, type AppError } from '@/api/client'
import { useSession } from '@/stores/session'
import { counted } from '@/lib/words'

interface Row {
  id: number
  name: string
  role: string
  roads: number
}

const session = useSession()
const router = useRouter()
const client = useQueryClient()
const projects = useQuery({ queryKey: ['projects'], queryFn: () => api.get<Row[]>('/projects') })
const name = ref('')
const wrong = ref('')

async function create() {
  wrong.value = ''
  try {
    const made = await api.post<Row>('/projects', { name: name.value.trim() })
    await client.invalidateQueries({ queryKey: ['projects'] })
    await router.push({ name: 'workbench', params: { id: made.id } })
  } catch (error) {
    wrong.value = (error as AppError).message
  }
}
async function leave() {
  await session.signOut()
  client.clear()
  await router.replace('/sign-in')
}
const MAY: Record<string, string> = { owner: 'you own it', editor: 'you may change it', viewer: 'you may look at it' }
</script>

<template>
  <main class="page">
    <header>
      <h1><img src="/ridge.svg" alt="" width="30" /> Ivory Ridge</h1>
      <span class="faded">{{ session.username }} <button class="link" @click="leave">Sign out</button></span>
    </header>
    <section class="box">
      <h2>Projects</h2>
      <p v-if="projects.isError.value" class="wrong">{{ projects.error.value?.message }}</p>
      <p v-else-if="projects.data.value?.length === 0" class="faded">You have no project yet. Name one below and start with its ground.</p>
      <RouterLink v-for="p in projects.data.value" :key="p.id" class="row" :to="{ name: 'workbench', params: { id: p.id } }"
          data-test="project">
        <strong>{{ p.name }}</strong>
        <span class="faded">{{ counted(p.roads, 'road') }} · {{ MAY[p.role] ?? p.role }}</span>
      </RouterLink>
      <form @submit.prevent="create">
        <input v-model="name" class="field" placeholder="Name of a new project" maxlength="120" required
            aria-label="Name of a new project" data-test="new-project" />
        <button class="btn primary" data-test="create-project">Create project</button>
      </form>
      <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
    </section>
  </main>
</template>

<style scoped>
.page { max-width: 720px; margin: 0 auto; padding: 40px 24px; }
header { display: flex; justify-content: space-between; align-items: center; margin-bottom: 20px; }
h1 { font-size: 24px; display: flex; gap: 10px; align-items: center; }
.box { background: var(--sheet); border: 1px solid var(--rule); border-radius: 4px; padding: 20px; display: grid; gap: 4px; }
.row {
  display: flex; justify-content: space-between; padding: 10px 12px; border-bottom: 1px solid var(--rule); text-decoration: none;
  color: inherit;
}
.row:hover { background: var(--petrol-wash); }
form { display: flex; gap: 8px; margin-top: 16px; }
</style>
