<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { ordersQuery, trailQuery } from '@/api/queries'
import { moment } from '@/lib/length'
import ProblemNote from '@/shell/ProblemNote.vue'

const order = ref(0)
const { data: orders } = useQuery(ordersQuery())
const { data, error, refetch } = useQuery(computed(() => trailQuery(order.value)))
</script>

<template>
  <section>
    <div class="head">
      <h1>Trail</h1>
      <label class="quiet small">of
        <select v-model.number="order" aria-label="Trail of which order">
          <option :value="0">everything</option>
          <option v-for="o in orders?.orders ?? []" :key="o.id" :value="o.id">{{ o.number }} {{ o.title }}</option>
        </select>
      </label>
    </div>
    <ProblemNote v-if="error" :error="error" @again="refetch" />
    <p v-else-if="data && !data.deeds.length" class="quiet">Nothing has been done yet. What people change from now on is listed here.</p>
    <table v-else class="rows">
      <thead><tr><th>when</th><th class="left">who</th><th class="left">what</th><th class="left">about</th><th class="left">order</th></tr></thead>
      <tbody>
        <tr v-for="(d, i) in data?.deeds ?? []" :key="i">
          <td class="num">{{ moment(d.at) }}</td>
          <td class="left">{{ d.by }}</td>
          <td class="left wide">{{ d.what }}</td>
          <td class="left">{{ d.about }}</td>
          <td class="left num"><RouterLink v-if="d.order" :to="`/orders/${d.order}`">{{ d.order_number }}</RouterLink><template v-else>{{ d.order_number }}</template></td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.head { display: flex; justify-content: space-between; align-items: baseline; margin-bottom: 10px; }
select { margin-left: 6px; }
.wide { white-space: normal; }
td { vertical-align: baseline; }
</style>
