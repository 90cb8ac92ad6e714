<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { reactive } from 'vue'
import { useRouter } from 'vue-router'

import { client, take } from '@/api/client'
import type { OrderCard } from '@/api/types'
import { tell } from '@/shell/tell'

const [router, queries] = [useRouter(), useQueryClient()]
const asked = reactive({ number: '', title: '', customer: '', due: '' })

async function start(): Promise<void> {
  try {
    const order = await take<OrderCard>(client.POST('/api/orders', { body: { ...asked, yard: '', due: asked.due || null } }))
    await queries.invalidateQueries({ queryKey: ['orders'] })
    await router.push(`/orders/${order.id}/part`)
  } catch (error) {
    tell(error)
  }
}
</script>

<template>
  <form class="new" @submit.prevent="start">
    <h2>Start an order</h2>
    <label>Number<input v-model="asked.number" name="number" type="text" class="short" maxlength="40" /></label>
    <label>Title<input v-model="asked.title" name="title" type="text" maxlength="120" /></label>
    <label>Customer<input v-model="asked.customer" name="customer" type="text" maxlength="120" /></label>
    <label>Due<input v-model="asked.due" name="due" type="date" /></label>
    <button class="main" type="submit" :disabled="!asked.number || !asked.title">Start</button>
  </form>
</template>

<style scoped>
.new { display: flex; flex-wrap: wrap; align-items: end; gap: 14px; padding: 10px 16px 14px; background: var(--paper); border: 1px solid var(--hair); }
h2 { flex-basis: 100%; }
label { display: flex; flex-direction: column; color: var(--quiet); font-size: 12px; }
.short { width: 110px; }
</style>
