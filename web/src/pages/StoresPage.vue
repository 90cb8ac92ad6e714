<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { client, take } from '@/api/client'
import { storesQuery } from '@/api/queries'
import { length } from '@/lib/length'
import LimitTable from '@/metal/LimitTable.vue'
import MachineTables from '@/metal/MachineTables.vue'
import MetalStores from '@/metal/MetalStores.vue'
import StockTable from '@/metal/StockTable.vue'
import { useStores } from '@/metal/useStores'
import CsvIn from '@/shell/CsvIn.vue'
import HeadBar from '@/shell/HeadBar.vue'
import KeysHelp from '@/shell/KeysHelp.vue'
import ProblemNote from '@/shell/ProblemNote.vue'
import { useView } from '@/stores/view'

const view = useView()
const { data, error, refetch } = useQuery(storesQuery())
const process = ref('laser')
const rows = computed(() => data.value?.cut_rows.filter((r) => r.process === process.value) ?? [])
const change = useStores()
const putChart = (body: { text: string; name: string }) =>
  change(take(client.PUT('/api/stores/tables/{name}', { params: { path: { name: 'cut-chart' } }, body })))
const orNone = (value: number) => (value > 0 ? mm(value) : '–')
function joints(row: (typeof rows.value)[number]): string {
  if (!row.joint_width || !(row.joint_count || row.joint_spacing)) return '–'
  return row.joint_count ? `${String(row.joint_count)} × ${mm(row.joint_width)}` : `${mm(row.joint_width)} each ${mm(row.joint_spacing, 0)}`
}
const mm = (value: number, decimals?: number) => length(value, view.units, decimals)
</script>

<template>
  <div class="page">
    <HeadBar />
    <KeysHelp />
    <ProblemNote v-if="error" :error="error" @again="refetch" />
    <main v-else-if="data">
      <MetalStores :stores="data" />
      <section>
        <StockTable :stores="data" />
        <MachineTables :stores="data" />
        <h1>Cut chart
          <span class="pick"><a href="/api/stores/tables/cut-chart" download>CSV out</a><CsvIn @table="putChart" /><button v-for="one in ['laser', 'plasma', 'waterjet']" :key="one" type="button" :class="{ main: one === process }" @click="process = one">{{ one }}</button></span>
        </h1>
        <table class="rows">
          <thead><tr><th>thickness</th><th class="left">material</th><th>kerf</th><th>feed, {{ view.units }}/min</th><th>pierce, s</th><th>lead-in</th><th>out</th><th>over</th><th class="left">corner</th><th>joints</th></tr></thead>
          <tbody>
            <tr v-for="row in rows" :key="row.id">
              <td class="num">{{ mm(row.thickness) }}</td><td class="left">{{ row.material }}</td><td class="num">{{ mm(row.kerf) }}</td><td class="num">{{ mm(row.feed, 0) }}</td><td class="num">{{ row.pierce_seconds.toFixed(1) }}</td>
              <td class="num">{{ row.lead_kind === 'none' ? '–' : `${mm(row.lead_in)}${row.lead_kind === 'arc' ? ' arc' : ''}` }}</td><td class="num">{{ orNone(row.lead_out) }}</td><td class="num">{{ orNone(row.over_cut) }}</td>
              <td class="left">{{ row.corner }}</td><td class="num">{{ joints(row) }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <section><LimitTable :limits="data.limits" /></section>
    </main>
  </div>
</template>

<style scoped>
.page { display: grid; grid-template: 'head' 40px 'main' 1fr / 1fr; height: 100%; }
main { display: grid; grid-template-columns: minmax(0, 1.3fr) minmax(0, 1.05fr) minmax(0, 0.68fr); gap: 14px; padding: 14px; min-height: 0; }
section { background: var(--paper); border: 1px solid var(--hair); padding: 10px 16px; overflow: auto; }
h1 { display: flex; justify-content: space-between; margin-bottom: 8px; }
table + h1 { margin-top: 22px; }
.pick { display: flex; gap: 4px; }
</style>
