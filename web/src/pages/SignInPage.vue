<script setup lang="ts">
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { AppError } from '@/api/client'
import { useSession } from '@/stores/session'

const session = useSession()
const route = useRoute()
const router = useRouter()
const name = ref('')
const password = ref('')
const wrong = ref('')
const busy = ref(false)

async function signIn() {
  busy.value = true
  wrong.value = ''
  try {
    await session.signIn(name.value.trim(), password.value)
    await router.replace(typeof route.query.next === 'string' ? route.query.next : '/')
  } catch (error) {
    wrong.value = (error as AppError).message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <main class="page">
    <form class="box" @submit.prevent="signIn">
      <h1><img src="/ridge.svg" alt="" width="34" /> Ivory Ridge</h1>
      <p class="faded">From survey points to issued sheets, in one linked road model.</p>
      <label>Name <input v-model="name" class="field" autocomplete="username" autofocus required data-test="name" /></label>
      <label>Password <input v-model="password" class="field" type="password" autocomplete="current-password" required
          data-test="password" /></label>
      <p v-if="wrong" class="wrong" role="alert">{{ wrong }}</p>
      <button class="btn primary" :disabled="busy" data-test="sign-in">Sign in</button>
    </form>
  </main>
</template>

<style scoped>
.page { min-height: 100%; display: grid; place-items: center; padding: 24px; }
.box { width: 340px; background: var(--sheet); border: 1px solid var(--rule); border-radius: 4px; padding: 28px; display: grid; gap: 12px; }
h1 { font-size: 24px; display: flex; gap: 10px; align-items: center; }
p { margin: 0; }
label { display: grid; gap: 4px; color: var(--faded); }
label input { color: var(--ink); }
.btn { justify-content: center; margin-top: 4px; min-height: 32px; }
</style>
