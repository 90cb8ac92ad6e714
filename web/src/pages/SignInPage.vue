<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { client, take } from '@/api/client'
import { asProblem } from '@/api/problem'
import { whoQuery } from '@/api/queries'

const [route, router, queries] = [useRoute(), useRouter(), useQueryClient()]
const user = ref('')
const password = ref('')
const fault = ref('')
useQuery(whoQuery())

async function signIn(): Promise<void> {
  fault.value = ''
  try {
    await take(client.POST('/api/session', { body: { user: user.value, password: password.value } }))
    queries.clear()
    await router.push(typeof route.query.then === 'string' ? route.query.then : '/')
  } catch (error) {
    fault.value = asProblem(error).message
  }
}
</script>

<template>
  <main class="door">
    <form class="card" @submit.prevent="signIn">
      <div class="head"><span>Kaigata</span><small>blanks, nests and cutting programs</small></div>
      <label>Name<input v-model="user" type="text" name="user" autocomplete="username" autofocus /></label>
      <label>Password<input v-model="password" type="password" name="password" autocomplete="current-password" /></label>
      <p v-if="fault" class="bad" role="alert">{{ fault }}. Look at the line that the start command printed.</p>
      <button class="main" type="submit" :disabled="!user || !password">Sign in</button>
    </form>
  </main>
</template>

<style scoped>
.door { min-height: 100%; display: grid; place-items: center; }
.card { width: 330px; background: var(--paper); border: 1px solid var(--hair); padding-bottom: 18px; }
.head { display: flex; align-items: baseline; justify-content: space-between; padding: 10px 20px; margin-bottom: 14px; background: var(--head); color: var(--head-words); }
.head span { font: 600 22px var(--narrow); }
.head small { color: var(--head-quiet); }
label { display: grid; grid-template-columns: 80px 1fr; align-items: center; margin: 8px 20px; }
p { margin: 8px 20px; }
button { margin: 10px 20px 0 100px; }
</style>
