<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ElDropdown, ElDropdownItem, ElDropdownMenu } from 'element-plus/es/components/dropdown/index'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { client, take } from '@/api/client'
import { ordersQuery, whoQuery } from '@/api/queries'
import type { OrderCard } from '@/api/types'
import { SHIFTS, useView } from '@/stores/view'

import FindField from './FindField.vue'

defineProps<{ order?: OrderCard | undefined }>()
const router = useRouter()
const route = useRoute()
const queries = useQueryClient()
const view = useView()
const { data: who } = useQuery(whoQuery())
const { data: orders } = useQuery(ordersQuery())
const listed = computed(() => orders.value?.orders.slice(0, 12) ?? [])

async function act(command: string): Promise<void> {
  if (command === 'people') {
    await router.push({ name: 'people' })
    return
  }
  await take(client.DELETE('/api/session'))
  queries.clear()
  await router.push({ name: 'sign-in' })
}

function setInches(event: Event): void {
  const chosen = (event.target as HTMLSelectElement).value
  view.inches = chosen === 'decimal' ? 'decimal' : (Number(chosen) as 16 | 32 | 64)
}

function open(order: number): void {
  void router.push(`/orders/${order}/part`)
}
</script>

<template>
  <header class="head">
    <RouterLink class="mark" to="/">Kaigata</RouterLink>
    <ElDropdown v-if="order" trigger="click" class="which" @command="open">
      <button class="order" type="button" aria-label="Choose an order">
        <span class="num">{{ order.number }}</span> {{ order.title }}<span v-if="order.yard">, {{ order.yard }}</span> <i />
      </button>
      <template #dropdown>
        <ElDropdownMenu>
          <ElDropdownItem v-for="one in listed" :key="one.id" :command="one.id">
            <span class="num">{{ one.number }}</span>&ensp;{{ one.title }}
          </ElDropdownItem>
        </ElDropdownMenu>
      </template>
    </ElDropdown>
    <span v-else class="order still">{{ route.name === 'people' ? 'People and trail' : 'Orders' }}</span>
    <FindField />
    <nav>
      <RouterLink to="/stores">Stores</RouterLink>
      <span class="units" role="group" aria-label="Units">
        <button type="button" :class="{ on: view.isMm }" @click="view.units = 'mm'">mm</button>
        <button type="button" :class="{ on: !view.isMm }" @click="view.units = 'in'">in</button>
        <select v-if="!view.isMm" :value="view.inches" aria-label="How inches are shown" @change="setInches">
          <option value="decimal">.000</option><option value="16">1/16</option><option value="32">1/32</option><option value="64">1/64</option>
        </select>
      </span>
      <span class="shift" role="group" aria-label="Shift">
        <button v-for="shift in SHIFTS" :key="shift" type="button" :class="{ on: view.shift === shift }" :aria-pressed="view.shift === shift" @click="view.shift = shift">{{ shift }}</button>
      </span>
      <button type="button" aria-label="All keys" @click="view.isHelpShown = true">keys</button>
      <ElDropdown v-if="who?.user" trigger="click" @command="act">
        <button type="button" class="who">{{ who.name }}<span v-if="!who.rights.length" class="looks"> looks only</span></button>
        <template #dropdown>
          <ElDropdownMenu><ElDropdownItem command="people">People and trail</ElDropdownItem><ElDropdownItem command="out">Sign out</ElDropdownItem></ElDropdownMenu>
        </template>
      </ElDropdown>
    </nav>
  </header>
</template>

<style scoped>
.head { grid-area: head; height: 40px; display: flex; align-items: center; gap: 12px; padding: 0 16px 0 14px;
  background: var(--head); color: var(--head-words); }
.mark { font: 600 21px/40px var(--narrow); color: #fff; text-decoration: none; letter-spacing: 0.2px; }
.mark::after { content: ''; display: inline-block; height: 18px; margin-left: 13px; vertical-align: -2px; border-left: 1px solid var(--head-hair); }
.order { color: var(--head-words); background: none; border: 0; padding: 0; font-weight: 400; font-size: 14px; white-space: nowrap; }
.order:hover:not(:disabled) { background: none; color: #fff; }
.order i { display: inline-block; border: 4px solid transparent; border-top-color: currentColor; margin: 0 0 -2px 4px; }
.still { color: var(--head-quiet); }
nav { margin-left: auto; display: flex; align-items: center; gap: 20px; }
nav a { color: var(--head-words); text-decoration: none; }
nav a.router-link-active { box-shadow: 0 2px 0 var(--head-dye); }
nav button { color: var(--head-quiet); background: none; border: 0; padding: 0 2px; font-weight: 400; }
nav button:hover:not(:disabled) { background: none; color: #fff; }
.units .on, .shift .on { color: #fff; font-weight: 600; }
.who { color: var(--head-words); white-space: nowrap; }
.looks { color: var(--head-quiet); }
select { margin-left: 4px; font: 12px var(--figures); color: var(--head-words); background: var(--head); border: 1px solid var(--head-hair); border-radius: 2px; }
@media (max-width: 1150px) { nav { gap: 12px; } .order span:not(.num) { display: none; } }
</style>
