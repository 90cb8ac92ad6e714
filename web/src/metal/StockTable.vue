<script setup lang="ts">
import { computed, reactive, ref } from 'vue'

import { client, take } from '@/api/client'
import type { Stores } from '@/api/types'
import { length, sheetSize } from '@/lib/length'
import CsvIn from '@/shell/CsvIn.vue'
import LengthField from '@/shell/LengthField.vue'
import NumberField from '@/shell/NumberField.vue'
import { useView } from '@/stores/view'

import { useStores } from './useStores'

type Sheet = Stores['sheets'][number]

const props = defineProps<{ stores: Stores }>()
const view = useView()
const change = useStores()
const isAdding = ref(false)
const gauges = computed(() =>
  props.stores.materials.flatMap((m) => m.gauges.map((g) => ({ id: g.id, material: m.name, thickness: g.thickness }))),
)
const fresh = reactive({ name: '', gauge: gauges.value[0]?.id ?? 0, width: 2500, height: 1250, count: 1, cost: null as number | null, grain: 0 as 0 | 90 })
const mm = (value: number) => length(value, view.units)
const at = (sheet: Sheet) => ({ params: { path: { sheet: sheet.id } } })

const set = (sheet: Sheet, body: { count?: number; cost?: number | null; grain?: 0 | 90 }) =>
  change(take(client.PATCH('/api/stores/sheets/{sheet}', { ...at(sheet), body })))
const putStock = (body: { text: string; name: string }) =>
  change(take(client.PUT('/api/stores/tables/{name}', { params: { path: { name: 'stock' } }, body })))
const takeOut = (sheet: Sheet) => change(take(client.DELETE('/api/stores/sheets/{sheet}', at(sheet))))

async function add(): Promise<void> {
  const gauge = gauges.value.find((g) => g.id === fresh.gauge) ?? gauges.value[0]
  if (!gauge) return
  const { name, width, height, count, cost, grain } = fresh
  const body = { name, width, height, count, grain, material: gauge.material, thickness: gauge.thickness, cost }
  if (await change(take(client.POST('/api/stores/sheets', { body })))) {
    isAdding.value = false
    fresh.name = ''
  }
}
</script>

<template>
  <h1>Stock sheets and remnants <span class="tables"><a href="/api/stores/tables/stock" download>CSV out</a><CsvIn @table="putStock" /><button type="button" @click="isAdding = !isAdding">Add a sheet</button></span></h1>
  <form v-if="isAdding" class="fresh" @submit.prevent="add">
    <label>Name<input v-model="fresh.name" type="text" name="sheet-name" required maxlength="80" /></label>
    <label>Gauge<select v-model="fresh.gauge" aria-label="Gauge of the sheet"><option v-for="g in gauges" :key="g.id" :value="g.id">{{ mm(g.thickness) }} {{ g.material }}</option></select></label>
    <label>Width<LengthField v-model="fresh.width" label="Width of the sheet" /></label>
    <label>Height<LengthField v-model="fresh.height" label="Height of the sheet" /></label>
    <label>In stock<NumberField v-model="fresh.count" :min="0" whole label="Count of the new sheet" /></label>
    <label>Cost of one<NumberField v-model="fresh.cost" :min="0" placeholder="by kg" label="Cost of the new sheet" /></label>
    <label>Grain<select v-model="fresh.grain" aria-label="Grain of the sheet"><option :value="0">along the width</option><option :value="90">along the height</option></select></label>
    <button type="submit" class="main">Add</button>
  </form>
  <table class="rows">
    <thead><tr><th /><th class="left">name and size, {{ view.units }}</th><th class="left">grain</th><th>cost</th><th>in stock</th></tr></thead>
    <tbody>
      <tr v-for="sheet in stores.sheets" :key="sheet.id">
        <td><svg :viewBox="`-20 ${-sheet.height - 20} ${sheet.width + 40} ${sheet.height + 40}`" aria-hidden="true"><path :d="sheet.path" transform="scale(1 -1)" /></svg></td>
        <td class="left">{{ sheet.name }} <button v-if="sheet.count === 0" type="button" class="bare small" @click="takeOut(sheet)">take out</button><p class="quiet small"><span class="num">{{ sheetSize(sheet.width, sheet.height, view.units) }} × {{ mm(sheet.thickness) }}</span> {{ sheet.material }}{{ sheet.is_remnant ? ', remnant' : '' }}</p></td>
        <td class="left"><select :value="sheet.grain" :aria-label="`Grain of ${sheet.name}`" @change="set(sheet, { grain: ($event.target as HTMLSelectElement).value === '90' ? 90 : 0 })"><option :value="0">↔</option><option :value="90">↕</option></select></td>
        <td><NumberField :model-value="sheet.cost" :label="`Cost of ${sheet.name}`" :min="0" placeholder="by kg" title="Left empty: by mass at the price of its material" @update:model-value="set(sheet, { cost: $event })" /></td>
        <td><NumberField :model-value="sheet.count" :label="`Count of ${sheet.name}`" :min="0" whole @update:model-value="set(sheet, { count: $event })" /></td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
h1 { display: flex; justify-content: space-between; align-items: baseline; margin-bottom: 8px; }
h1 button, .tables { font: 400 13px var(--words); }
.tables { display: flex; gap: 10px; align-items: baseline; }
td select { width: 46px; padding: 1px 3px; }
td input { width: 58px; padding: 1px 5px; }
svg { width: 30px; height: 24px; display: block; }
td.left, td.left p { white-space: normal; }
.num { white-space: nowrap; }
path { fill: var(--silhouette); }
.fresh { display: grid; grid-template-columns: 1fr 1fr 1fr; gap: 6px 10px; margin-bottom: 10px; align-items: end; }
.fresh label { display: grid; gap: 2px; color: var(--quiet); font-size: 12px; }
.fresh input, .fresh select { width: 100%; }
</style>
