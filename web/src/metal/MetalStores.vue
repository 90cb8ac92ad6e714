<script setup lang="ts">
import { computed, ref } from 'vue'

import { client, take } from '@/api/client'
import type { Stores } from '@/api/types'
import { length } from '@/lib/length'
import CsvIn from '@/shell/CsvIn.vue'
import { useView } from '@/stores/view'

import ChartEditor from './ChartEditor.vue'
import GaugeTable from './GaugeTable.vue'
import { useStores } from './useStores'

/** Materials with their gauges and bend charts, as tables and as CSV. */
const props = defineProps<{ stores: Stores }>()
const view = useView()
const change = useStores()
const name = ref(props.stores.materials[0]?.name ?? '')
const material = computed(() => props.stores.materials.find((m) => m.name === name.value) ?? props.stores.materials[0])
const open = ref<number | null>(material.value?.gauges[0]?.id ?? null)
const gauge = computed(() => material.value?.gauges.find((g) => g.id === open.value))

function choose(one: string): void {
  name.value = one
  open.value = material.value?.gauges[0]?.id ?? null
}

const putTable = (table: string, body: { text: string; name: string }) =>
  change(take(client.PUT('/api/stores/tables/{name}', { params: { path: { name: table } }, body })))
</script>

<template>
  <div>
    <h1>Materials and bend charts</h1>
    <p class="pick"><button v-for="m in stores.materials" :key="m.name" type="button" :class="{ main: m.name === material?.name }" @click="choose(m.name)">{{ m.title }}</button></p>
    <template v-if="material">
      <p class="quiet small facts">{{ material.density }} kg/m³ · {{ material.price.toFixed(2) }} a kg · {{ material.tensile }} MPa tensile<template v-if="material.note"> · {{ material.note }}</template></p>
      <GaugeTable :material="material" :open="open" @open="open = open === $event ? null : $event" />
      <ChartEditor v-if="gauge" :key="gauge.id" :gauge="gauge" :title="`${length(gauge.thickness, view.units)} ${material.title}`" />
      <p class="tables">
        <span>Bend charts of {{ material.title }}:</span>
        <a :href="`/api/stores/tables/${material.name}`" download>CSV out</a><CsvIn @table="putTable(material.name, $event)" />
        <span>Materials and gauges:</span>
        <a href="/api/stores/tables/materials" download>CSV out</a><CsvIn @table="putTable('materials', $event)" />
      </p>
    </template>
  </div>
</template>

<style scoped>
.pick { display: flex; flex-wrap: wrap; gap: 4px; margin: 6px 0; }
.facts { margin-bottom: 4px; }
.tables { display: grid; grid-template-columns: 1fr auto auto; gap: 2px 14px; margin-top: 14px; padding-top: 8px; border-top: 1px solid var(--hair); }
</style>
