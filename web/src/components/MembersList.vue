<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, type AppError } from '@/api/client'
import type { Member, Role } from '@/api/types'
import { useWorkbench } from '@/composables/workbench'

const bench = useWorkbench()
const client = useQueryClient()
const key = ['members', bench.projectId]
const query = useQuery({ queryKey: key, queryFn: () => api.get<Member[]>(`/projects/${bench.projectId}/members`) })
const isOwner = computed(() => bench.project.value?.role === 'owner')
const name = ref('')
const role = ref<Role>('viewer')
const wrong = ref('')
const ROLES: Role[] = ['viewer', 'editor', 'owner']
async function run(what: () => Promise<Member[]>) {
  wrong.value = ''
  try {
    client.setQueryData(key, await what())
    name.value = ''
  } catch (error) {
    wrong.value = (error as AppError).message
    await client.invalidateQueries({ queryKey: key })
  }
}
const set = (username: string, r: Role) => run(() => api.post<Member[]>(`/projects/${bench.projectId}/members`, { username, role: r }))
</script>

<template>
  <p class="faded">A viewer reads, an editor changes the design, an owner also names people.</p>
  <table class="grid">
    <tbody>
      <tr v-for="m in query.data.value" :key="m.username">
        <td>{{ m.username }}</td>
        <td><select v-if="isOwner" class="field" :value="m.role" :aria-label="`Role of ${m.username}`"
            @change="set(m.username, ($event.target as HTMLSelectElement).value as Role)"><option v-for="r in ROLES"
            :key="r">{{ r }}</option></select><span v-else>{{ m.role }}</span></td>
        <td><button v-if="isOwner" class="btn quiet" :aria-label="`Remove ${m.username}`"
            @click="run(() => api.delete(`/projects/${bench.projectId}/members/${encodeURIComponent(m.username)}`))">×</button></td>
      </tr>
    </tbody>
  </table>
  <form v-if="isOwner" @submit.prevent="set(name.trim(), role)">
    <input v-model="name" class="field" placeholder="Account name" required aria-label="Account name" data-test="member-name" />
    <select v-model="role" class="field" aria-label="Role"><option v-for="r in ROLES" :key="r">{{ r }}</option></select>
    <button class="btn primary" data-test="member-add">Add</button>
  </form>
  <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
</template>

<style scoped>
form { display: grid; grid-template-columns: 1fr 110px auto; gap: 6px; margin-top: 12px; }
</style>
