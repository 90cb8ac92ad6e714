<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'

import { client, take } from '@/api/client'
import type { OrderCard, OrderChange } from '@/api/types'
import CsvIn from '@/shell/CsvIn.vue'
import { tell } from '@/shell/tell'
import TextField from '@/shell/TextField.vue'
import { useUndo } from '@/stores/undo'

/** What an order says of itself, and its quantities as a table. */
const props = defineProps<{ order: OrderCard }>()
const queries = useQueryClient()
const undo = useUndo()
const FIELDS = [
  { name: 'title', title: 'Title', most: 120 },
  { name: 'customer', title: 'Customer', most: 120 },
  { name: 'yard', title: 'For', most: 120 },
] as const
const at = () => ({ params: { path: { order: props.order.id } } })

async function send(body: OrderChange): Promise<void> {
  await take(client.PATCH('/api/orders/{order}', { ...at(), body }))
  await queries.invalidateQueries({ predicate: (q) => ['order', 'orders'].includes(String(q.queryKey[0])) })
}

function change(name: 'title' | 'customer' | 'yard' | 'due' | 'note', now: string): void {
  const before = props.order[name] ?? ''
  const body = (value: string): OrderChange => ({ [name]: name === 'due' ? value || null : value })
  void undo.run({ what: `the ${name} of the order`, make: () => send(body(now)), unmake: () => send(body(before)) })
}

async function putLines(body: { text: string; name: string }): Promise<void> {
  try {
    await take(client.PUT('/api/orders/{order}/lines', { ...at(), body }))
    await queries.invalidateQueries({ predicate: (q) => !['stores', 'who'].includes(String(q.queryKey[0])) })
  } catch (error) {
    tell(error)
  }
}
</script>

<template>
  <section>
    <h2>Order <span class="num">{{ order.number }}</span></h2>
    <div v-for="f in FIELDS" :key="f.name" class="field"><span>{{ f.title }}</span><TextField :name="`order-${f.name}`" :maxlength="f.most" :required="f.name === 'title'" :model-value="order[f.name]" :label="f.title" @update:model-value="change(f.name, $event)" /></div>
    <div class="field"><span>Due</span><TextField name="order-due" kind="date" :model-value="order.due ?? ''" label="Due" @update:model-value="change('due', $event)" /></div>
    <div class="field"><span>Note</span><TextField name="order-note" kind="note" maxlength="4000" :model-value="order.note" label="Note" @update:model-value="change('note', $event)" /></div>
    <dl class="facts">
      <dt>Parts</dt><dd class="num">{{ order.parts }}</dd><dd />
      <dt>Pieces</dt><dd class="num">{{ order.pieces }}</dd><dd />
    </dl>
    <p class="tables">Quantities and materials <a :href="`/api/orders/${order.id}/lines`" download>CSV out</a><CsvIn @table="putLines" /></p>
  </section>
</template>

<style scoped>
.tables { display: flex; gap: 12px; margin-top: 6px; color: var(--quiet); }
</style>
