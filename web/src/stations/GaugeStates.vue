<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { gaugesQuery } from '@/api/queries'
import type { GaugeStates } from '@/api/types'
import { counted } from '@/lib/counted'
import { length } from '@/lib/length'
import { useView } from '@/stores/view'

/** How far each gauge of an order has come. */
type State = GaugeStates['gauges'][number]

const props = defineProps<{ order: number }>()
const view = useView()
const { data } = useQuery(computed(() => gaugesQuery(props.order)))

function said(gauge: State): string {
  const sheets = counted(gauge.sheets, 'sheet')
  if (gauge.state === 'open') return 'not nested'
  if (gauge.state === 'searching') return gauge.sheets ? `searching, ${sheets}` : 'searching'
  if (gauge.state === 'stale') return 'changed since'
  if (gauge.state === 'short') return `${gauge.pieces - gauge.placed} left out`
  return sheets
}
</script>

<template>
  <section v-if="data?.gauges.length">
    <h2>Gauges</h2>
    <table class="rows">
      <thead><tr><th>gauge, {{ view.units }}</th><th>pieces</th><th class="left">nest</th><th>used</th></tr></thead>
      <tbody>
        <tr v-for="gauge in data.gauges" :key="`${gauge.material} ${gauge.thickness}`" :data-state="gauge.state">
          <td><span class="num">{{ gauge.thickness === null ? '—' : length(gauge.thickness, view.units) }}</span> {{ gauge.material }}</td>
          <td class="num">{{ gauge.pieces }}</td>
          <td class="left" :class="{ bad: ['stale', 'short'].includes(gauge.state) }">{{ said(gauge) }}</td>
          <td class="num">{{ gauge.utilisation === null ? '' : `${(gauge.utilisation * 100).toFixed(1)} %` }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.bad { color: var(--oxide); }
</style>
