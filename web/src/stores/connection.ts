/** Whether the server is there and knows who asks; and what could not be saved while it was not. */
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, onReached, type Reached } from '@/api/client'
import { useSession } from './session'

const AGAIN = 2000 // ms between looks for a server that is away

export const useConnection = defineStore('connection', () => {
  const session = useSession()
  const state = ref<Reached>('here')
  /** Acts that were not done because of it, in their order. */
  const unsaved = shallowRef<(() => Promise<unknown>)[]>([])
  const whole = computed(() => state.value === 'here')
  let looking = 0

  onReached((now) => {
    state.value = now
    if (now === 'away') lookAgain()
  })
  function lookAgain() {
    clearTimeout(looking)
    looking = window.setTimeout(() => void look(), AGAIN)
  }
  /** Is it back, and does it still know us? */
  async function look() {
    try {
      const { username } = await api.get<{ username: string | null }>('/session')
      state.value = username === null && session.username !== null ? 'signed-out' : 'here'
    } catch {
      lookAgain()
    }
  }
  async function signInAgain(password: string) {
    await api.get('/session') // the token may have gone with the session
    await session.signIn(session.username ?? '', password)
    state.value = 'here'
  }
  function hold(act: () => Promise<unknown>) {
    unsaved.value = [...unsaved.value, act]
  }
  /** Do what was held, in its order; what the server refuses is told like any act. */
  async function saveNow() {
    const held = unsaved.value
    unsaved.value = []
    for (const act of held) await act()
  }
  function letGo() {
    unsaved.value = []
  }
  return { state, unsaved, whole, look, signInAgain, hold, saveNow, letGo }
})
