<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'

import { ordersQuery } from '@/api/queries'
import HeadBar from '@/shell/HeadBar.vue'
import KeysHelp from '@/shell/KeysHelp.vue'
import ProblemNote from '@/shell/ProblemNote.vue'

import NewOrder from './NewOrder.vue'
import OrderRow from './OrderRow.vue'

const { data, error, refetch } = useQuery(ordersQuery())
</script>

<template>
  <div class="page">
    <HeadBar />
    <KeysHelp />
    <main>
      <ProblemNote v-if="error" :error="error" @again="refetch" />
      <template v-else>
        <NewOrder />
        <h1>Orders</h1>
        <p v-if="data && !data.orders.length" class="quiet">No order yet. Start one above, then drop STEP files onto its rack.</p>
        <OrderRow v-for="order in data?.orders ?? []" :key="order.id" :order="order" />
      </template>
    </main>
  </div>
</template>

<style scoped>
.page { display: grid; grid-template: 'head' 40px 'main' 1fr / 1fr; height: 100%; }
main { overflow: auto; padding: 20px 28px; }
h1 { margin: 18px 0 10px; }
</style>
