import { defineStore } from 'pinia'
import { ref } from 'vue'
import { api } from '@/api/client'

export const useSession = defineStore('session', () => {
  const username = ref<string | null>(null)
  const loaded = ref(false)
  async function load() {
    if (loaded.value) return
    username.value = (await api.get<{ username: string | null }>('/session')).username
    loaded.value = true
  }
  async function signIn(name: string, password: string) {
    username.value = (await api.post<{ username: string }>('/session', { username: name, password })).username
  }
  async function signOut() {
    await api.delete('/session')
    username.value = null
  }
  return { username, load, signIn, signOut }
})
