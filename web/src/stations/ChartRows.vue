<script setup lang="ts">
import { computed } from 'vue'

import type { Cut } from '@/api/types'
import { length } from '@/lib/length'
import { useView } from '@/stores/view'

/** What the cut chart says for the gauges of the order. */
const props = defineProps<{ cut: Cut }>()
const view = useView()
const rows = computed(() => props.cut.chart.filter((r) => r.process === props.cut.choice.process))
const mm = (v: number, d?: number) => length(v, view.units, d)
</script>

<template>
  <section>
    <h2>Cut chart <span>{{ cut.choice.process }}, gauges of this order</span></h2>
    <table class="rows">
      <thead><tr><th>gauge</th><th>kerf</th><th>feed/min</th><th>pierce, s</th><th>lead-in</th></tr></thead>
      <tbody>
        <tr v-for="r in rows" :key="`${r.thickness}-${r.material}`" class="num">
          <td>{{ mm(r.thickness) }}</td><td>{{ mm(r.kerf) }}</td><td>{{ mm(r.feed, 0) }}</td><td>{{ r.pierce_seconds.toFixed(1) }}</td><td>{{ mm(r.lead_in) }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
