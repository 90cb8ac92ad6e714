<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { storesQuery } from '@/api/queries'
import CutChart from '@/metal/CutChart.vue'
import LetteringTable from '@/metal/LetteringTable.vue'
import LimitTable from '@/metal/LimitTable.vue'
import MachineTables from '@/metal/MachineTables.vue'
import MetalStores from '@/metal/MetalStores.vue'
import PressingTable from '@/metal/PressingTable.vue'
import StockTable from '@/metal/StockTable.vue'
import HeadBar from '@/shell/HeadBar.vue'
import KeysHelp from '@/shell/KeysHelp.vue'
import LooksOnly from '@/shell/LooksOnly.vue'
import ProblemNote from '@/shell/ProblemNote.vue'

const { data, error, refetch } = useQuery(storesQuery())
</script>

<template>
  <div class="page">
    <HeadBar />
    <KeysHelp />
    <ProblemNote v-if="error" :error="error" @again="refetch" />
    <main v-else-if="data">
      <LooksOnly class="above" right="stores" what="shop data" />
      <section><MetalStores :stores="data" /><CutChart :stores="data" /></section>
      <section>
        <StockTable :stores="data" />
        <MachineTables :stores="data" />
        <PressingTable :pressings="data.pressings" />
        <LetteringTable :lettering="data.lettering" />
      </section>
      <section><LimitTable :limits="data.limits" /></section>
    </main>
  </div>
</template>

<style scoped>
.page { display: grid; grid-template: 'head' 40px 'main' 1fr / 1fr; height: 100%; }
main { display: grid; grid-template-columns: minmax(0, 1.3fr) minmax(0, 1.05fr) minmax(0, 0.68fr); gap: 14px; padding: 14px; min-height: 0; }
section { background: var(--paper); border: 1px solid var(--hair); padding: 10px 16px; overflow: auto; }
.above { grid-column: 1 / -1; margin: 0; }
main:has(> .above) { grid-template-rows: auto minmax(0, 1fr); }
@media (max-width: 1150px) {
  main { grid-template: minmax(0, 1.7fr) minmax(0, 1fr) / minmax(0, 1.18fr) minmax(0, 1fr); gap: 10px; padding: 10px; }
  section { padding: 8px 12px; }
  main:has(> .above) { grid-template-rows: auto minmax(0, 1.7fr) minmax(0, 1fr); }
  section:first-of-type { grid-row: span 2; }
}
</style>
