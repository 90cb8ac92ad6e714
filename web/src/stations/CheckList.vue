<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { client, take } from '@/api/client'
import { checksQuery } from '@/api/queries'
import type { Check, Checks } from '@/api/types'
import { day } from '@/lib/length'
import { tell } from '@/shell/tell'

const props = defineProps<{ order: number }>()
const queries = useQueryClient()
const { data } = useQuery(computed(() => checksQuery(props.order)))
const checks = computed(() => data.value?.checks ?? [])
const passed = computed(() => checks.value.filter((c) => c.state === 'passed').length)
const typed = ref<Record<string, string>>({})
const WORDS = { passed: 'passed', failed: 'fails', open: 'not yet' } as const
const word = (check: Check) => (check.reason ? 'let pass' : WORDS[check.state])

async function settle(asked: Promise<Checks>): Promise<void> {
  try {
    queries.setQueryData(checksQuery(props.order).queryKey, await asked)
    typed.value = {}
  } catch (fault) {
    tell(fault)
    await queries.invalidateQueries({ queryKey: ['checks'] })
  }
}

const path = (name: string) => ({ path: { order: props.order, name } })
const letPass = ({ name, said }: Check) =>
  settle(take<Checks>(client.PUT('/api/orders/{order}/checks/{name}', { params: path(name), body: { said, reason: typed.value[name] ?? '' } })))
const takeBack = ({ name }: Check) => settle(take<Checks>(client.DELETE('/api/orders/{order}/checks/{name}', { params: path(name) })))
</script>

<template>
  <section>
    <h2>Checks <span v-if="checks.length">{{ passed }} of {{ checks.length }} passed</span></h2>
    <p v-if="!checks.length" class="quiet">checking …</p>
    <ul>
      <li v-for="check in checks" :key="check.name" :data-check="check.name">
        <p class="head"><span>{{ check.title }}</span><b :class="{ up: check.state === 'passed', bad: check.state === 'failed' && !check.reason, warn: check.reason }">{{ word(check) }}</b></p>
        <p class="small" :class="check.state === 'failed' ? 'bad' : 'quiet'">{{ check.said }}</p>
        <p v-if="check.reason" class="small word">{{ check.by }} {{ day(check.at) }}: {{ check.reason }} <button type="button" class="bare small" @click="takeBack(check)">take back</button></p>
        <form v-else-if="check.state === 'failed'" @submit.prevent="letPass(check)">
          <input v-model="typed[check.name]" type="text" :aria-label="`Why it may pass: ${check.title}`" placeholder="may go out because …" />
          <button type="submit" :disabled="!typed[check.name]?.trim()">Let pass</button>
        </form>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul { list-style: none; margin: 0; padding: 0; }
li { padding: 4px 0 5px; border-top: 1px solid var(--hair); }
li:first-child { border-top: 0; }
.head { display: flex; justify-content: space-between; gap: 8px; }
.head b { font-weight: 500; white-space: nowrap; }
form { display: flex; gap: 6px; margin-top: 4px; }
form input { flex: 1; min-width: 0; }
.word { overflow-wrap: anywhere; }
</style>
