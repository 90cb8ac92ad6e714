<script setup lang="ts">
import { client, take } from '@/api/client'
import { Problem } from '@/api/problem'
import type { Gauge, Material } from '@/api/types'
import { counted } from '@/lib/counted'
import { length, lengthList, readLengthList } from '@/lib/length'
import { tell } from '@/shell/tell'
import { useView } from '@/stores/view'

import { methodTitle } from './methods'
import { useStores } from './useStores'

/** The gauges of a material: radii, chart, and what air bending to 90 degrees asks for. */
defineProps<{ material: Material; open: number | null }>()
const emit = defineEmits<{ open: [gauge: number] }>()
const view = useView()
const change = useStores()
const at = (gauge: Gauge) => ({ params: { path: { gauge: gauge.id } } })
const mm = (value: number, decimals?: number) => length(value, view.units, decimals)
const radii = (gauge: Gauge) => lengthList(gauge.radii, view.units)

function setNumber(gauge: Gauge, event: Event): void {
  const number = (event.target as HTMLInputElement).value.trim()
  void change(take(client.PATCH('/api/stores/gauges/{gauge}', { ...at(gauge), body: { number } })))
}

function setRadii(gauge: Gauge, event: Event): void {
  const field = event.target as HTMLInputElement
  const read = readLengthList(field.value, view.units, gauge.radii)
  if (!read) {
    tell(new Problem({ detail: `“${field.value}” are no lengths`, fix: 'Write radii with blanks between, 1.5 2 3' }))
    field.value = radii(gauge)
    return
  }
  void change(take(client.PATCH('/api/stores/gauges/{gauge}', { ...at(gauge), body: { radii: read } })))
}

async function copy(gauge: Gauge): Promise<void> {
  await change(take(client.POST('/api/stores/gauges/{gauge}', { ...at(gauge), body: { thickness: Math.round((gauge.thickness + 0.1) * 1000) / 1000 } })))
}

function takeOut(gauge: Gauge): void {
  void change(take(client.DELETE('/api/stores/gauges/{gauge}', at(gauge))))
}
</script>

<template>
  <table class="rows">
    <thead><tr><th>T, {{ view.units }}</th><th>gauge</th><th class="left">inside radii, {{ view.units }}</th><th class="left">bend chart</th><th>die</th><th>flange</th><th>kN/m</th><th /></tr></thead>
    <tbody>
      <tr v-for="g in material.gauges" :key="g.id" :class="{ picked: g.id === open }">
        <td class="num">{{ mm(g.thickness) }}</td>
        <td><input class="num short" type="text" :value="g.number" :aria-label="`Gauge number of ${g.thickness} ${material.name}`" @change="setNumber(g, $event)" /></td>
        <td class="left room"><input class="num radii" type="text" :value="radii(g)" :title="radii(g)" :aria-label="`Radii of ${g.thickness} ${material.name}`" @change="setRadii(g, $event)" /></td>
        <td class="left"><button type="button" class="bare" :aria-label="`Chart of ${g.thickness} ${material.name}`" @click="emit('open', g.id)">{{ g.method === 'k' ? `K ${g.points[0]?.value}` : methodTitle(g.method) }}</button></td>
        <td class="num">{{ mm(g.opening, view.isMm ? 0 : 2) }}</td>
        <td class="num">{{ mm(g.least_flange, view.isMm ? 1 : 2) }}</td>
        <td class="num">{{ g.force.toFixed(0) }}</td>
        <td class="acts">
          <button type="button" class="bare small" title="Start a gauge from this one" @click="copy(g)">copy</button>
          <button type="button" class="bare small" :disabled="g.parts > 0" :title="g.parts ? `${counted(g.parts, 'part uses', 'parts use')} it` : 'No part uses it'" @click="takeOut(g)">take out</button>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.short { width: 38px; padding: 1px 4px; }
.room { width: 100%; }
.radii { width: 100%; min-width: 60px; padding: 1px 4px; text-align: left; text-overflow: ellipsis; }
th, td { white-space: nowrap; }
.acts button { display: block; margin-left: auto; line-height: 1.15; }
</style>
