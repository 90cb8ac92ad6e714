<script setup lang="ts">
import { computed, ref } from 'vue'

import { client, take } from '@/api/client'
import type { Stores } from '@/api/types'
import { length } from '@/lib/length'
import { PROCESSES, type Process } from '@/lib/processes'
import CsvIn from '@/shell/CsvIn.vue'
import { useView } from '@/stores/view'

import MeasuredSizes from './MeasuredSizes.vue'
import { useStores } from './useStores'

/** The shop's cut chart, a process at a time, and as CSV. */
const props = defineProps<{ stores: Stores }>()
const view = useView()
const change = useStores()
const process = ref<Process>('laser')
const rows = computed(() => props.stores.cut_rows.filter((r) => r.process === process.value))
const open = ref(0)
const chosen = computed(() => rows.value.find((r) => r.id === open.value))
const putChart = (body: { text: string; name: string }) =>
  change(take(client.PUT('/api/stores/tables/{name}', { params: { path: { name: 'cut-chart' } }, body })))
const mm = (value: number, decimals?: number) => length(value, view.units, decimals)
const orNone = (value: number) => (value > 0 ? mm(value) : '–')
function joints(row: Stores['cut_rows'][number]): string {
  if (!row.joint_width || !(row.joint_count || row.joint_spacing)) return '–'
  return row.joint_count ? `${String(row.joint_count)} × ${mm(row.joint_width)}` : `${mm(row.joint_width)} each ${mm(row.joint_spacing, 0)}`
}
</script>

<template>
  <h1>Cut chart
    <span class="pick"><a href="/api/stores/tables/cut-chart" download>CSV out</a><CsvIn @table="putChart" /><button v-for="one in PROCESSES" :key="one" type="button" :class="{ main: one === process }" @click="process = one">{{ one }}</button></span>
  </h1>
  <table class="rows">
    <thead><tr><th>T, {{ view.units }}</th><th class="left">material</th><th>kerf</th><th>feed, {{ view.units }}/min</th><th>pierce, s</th><th>lead-in</th><th>out</th><th>over</th><th class="left">corner</th><th>joints</th></tr></thead>
    <tbody>
      <tr v-for="row in rows" :key="row.id">
        <td class="num">{{ mm(row.thickness) }}</td><td class="left">{{ row.material }}</td><td class="kerf"><button type="button" class="bare num" :class="{ origin: row.kerf_origin }" :title="row.kerf_origin || 'Correct it by measured parts'" :aria-expanded="row.id === open" :aria-label="`Kerf of ${row.thickness} ${row.material} by measured parts`" @click="open = row.id === open ? 0 : row.id">{{ mm(row.kerf) }}</button></td><td class="num">{{ mm(row.feed, 0) }}</td><td class="num">{{ row.pierce_seconds.toFixed(1) }}</td>
        <td class="num">{{ row.lead_kind === 'none' ? '–' : `${mm(row.lead_in)}${row.lead_kind === 'arc' ? ' arc' : ''}` }}</td><td class="num">{{ orNone(row.lead_out) }}</td><td class="num">{{ orNone(row.over_cut) }}</td>
        <td class="left">{{ row.corner }}</td><td class="num">{{ joints(row) }}</td>
      </tr>
    </tbody>
  </table>
  <p v-if="!chosen" class="quiet small">Click a kerf to correct it by measured parts; one that was has a dotted line.</p>
  <MeasuredSizes v-if="chosen" :key="chosen.id" :row="chosen" />
</template>

<style scoped>
h1 { display: flex; justify-content: space-between; margin: 22px 0 8px; }
.kerf button { padding: 0; font: inherit; font-family: var(--figures); }
.kerf .origin { text-decoration: underline dotted; text-underline-offset: 3px; }
.pick { display: flex; gap: 4px; align-items: baseline; }
.pick a { font: 500 13px var(--words); margin-right: 10px; }
</style>
