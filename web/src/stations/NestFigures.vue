<script setup lang="ts">
import { computed } from 'vue'

import type { Nest } from '@/api/types'
import { grouped } from '@/lib/length'

const props = defineProps<{ nest: Nest }>()
const placed = computed(() => props.nest.sheets.reduce((sum, s) => sum + s.placements.length, 0))
const files = computed(() => props.nest.sheets.map((s) => ({ no: s.number, href: `/api/nests/${props.nest.nest}/files/sheet-${s.number}.dxf` })))
</script>

<template>
  <section>
    <h2>Figures <span>of the best answer</span></h2>
    <dl class="facts">
      <dt>Copies placed</dt><dd class="num">{{ placed }}</dd><dd />
      <dt>Sheets used</dt><dd class="num">{{ nest.sheets.length }}</dd><dd />
      <dt>Mass of sheets</dt><dd class="num">{{ nest.mass === null ? '—' : grouped(nest.mass, 1) }}</dd><dd class="unit">kg</dd>
      <dt>Cost of sheets</dt><dd class="num">{{ nest.cost === null ? '—' : grouped(nest.cost, 2) }}</dd><dd />
    </dl>
    <div v-if="nest.unplaced.length" class="left-out">
      <p v-for="u in nest.unplaced" :key="u.part" class="finding error"><b>{{ u.quantity }} × {{ u.part }}</b> did not fit: {{ u.why }}</p>
    </div>
    <p class="files">DXF of sheet <a v-for="f in files" :key="f.no" class="num" :href="f.href" download>{{ f.no }}</a></p>
    <p><a :href="`/api/nests/${nest.nest}/files/report.html`" download>Report</a></p>
  </section>
</template>

<style scoped>
.files { display: flex; flex-wrap: wrap; gap: 4px 10px; margin: 6px 0 2px; }
</style>
