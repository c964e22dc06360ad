<script setup lang="ts">
/** Said once, as long as it holds: the server is away or the session has ended, what is not saved, and the way back. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import type { AppError } from '@/api/client'
import { useConnection } from '@/stores/connection'
import { useSession } from '@/stores/session'

const connection = useConnection()
const session = useSession()
const client = useQueryClient()
const password = ref('')
const wrong = ref('')
const count = computed(() => connection.unsaved.length)
const held = computed(() =>
  count.value === 0 ? '' : count.value === 1 ? 'Your last change is not saved.' : `Your last ${count.value} changes are not saved.`,
)
const said = computed(() =>
  connection.state === 'away'
    ? 'The server does not answer; it is looked for by itself. What you see stays.'
    : connection.state === 'signed-out'
      ? 'Your session has ended. What you see stays.'
      : '',
)
watch(
  () => connection.state,
  (now) => {
    if (now === 'here') void client.invalidateQueries() // others may have gone on meanwhile
  },
)
async function signIn() {
  wrong.value = ''
  try {
    await connection.signInAgain(password.value)
    password.value = ''
  } catch (error) {
    wrong.value = (error as AppError).message
  }
}
</script>

<template>
  <div v-if="said || held" class="strip" role="status" data-test="connection">
    <span>{{ said }} <b v-if="held">{{ held }}</b></span>
    <button v-if="connection.state === 'away'" class="btn" data-test="connection-look" @click="connection.look()">Try now</button>
    <form v-else-if="connection.state === 'signed-out'" @submit.prevent="signIn">
      <label>Password of {{ session.username }} <input v-model="password" class="field" type="password" required
          autocomplete="current-password" data-test="connection-password" /></label>
      <button class="btn" data-test="connection-sign-in">Sign in again</button>
      <span v-if="wrong" class="wrong" role="alert">{{ wrong }}</span>
    </form>
    <template v-else>
      <button class="btn" data-test="connection-save" @click="connection.saveNow()">Save now</button>
      <button class="btn" data-test="connection-let-go" @click="connection.letGo()">Let go</button>
    </template>
  </div>
</template>

<style scoped>
.strip {
  position: fixed; top: 50px; left: 20px; right: 20px; margin: 0 auto; width: fit-content; z-index: 55;
  display: flex; flex-wrap: wrap; align-items: center; gap: 6px 12px; padding: 8px 12px; background: var(--paper);
  border: 1px solid var(--ochre); border-radius: 4px; box-shadow: 0 4px 14px rgb(29 42 51 / 18%);
}
form { display: flex; flex-wrap: wrap; align-items: center; gap: 6px 10px; }
label { display: flex; align-items: center; gap: 6px; white-space: nowrap; }
.wrong { color: var(--madder); }
</style>
