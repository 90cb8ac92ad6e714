<script setup lang="ts">
import { client, take } from '@/api/client'
import type { Stores } from '@/api/types'
import LengthField from '@/shell/LengthField.vue'
import NumberField from '@/shell/NumberField.vue'
import { useView } from '@/stores/view'

import { useStores } from './useStores'

/** Thresholds of the findings, each with its reason. */
defineProps<{ limits: Stores['limits'] }>()
const change = useStores()
const TITLES: Record<string, string> = {
  blank_width: 'Largest blank, length', blank_height: 'Largest blank, width', brake_length: 'Brake length', brake_force: 'Brake force',
  hole_to_bend: 'Hole to bend', hole_to_edge: 'Hole to edge', hole_to_hole: 'Hole to hole', slot_width: 'Narrowest slot', kerf: 'Widest cut', corner_radius: 'Outside corners',
}
const UNITS: Record<string, string> = {
  blank_width: 'mm', blank_height: 'mm', brake_length: 'mm', brake_force: 'kN', hole_to_bend: '× T', hole_to_edge: '× T', hole_to_hole: '× T', slot_width: '× T', kerf: 'mm', corner_radius: 'mm',
}

const view = useView()
const unit = (name: string) => (UNITS[name] === 'mm' ? view.units : UNITS[name])

function set(name: string, value: number): void {
  void change(take(client.PATCH('/api/stores/limits', { body: { values: { [name]: value } } })))
}
</script>

<template>
  <h1>Limits of the findings</h1>
  <table class="rows limits">
    <tbody>
      <tr v-for="l in limits" :key="l.name" :title="l.reason">
        <td>{{ TITLES[l.name] ?? l.name }}<p class="quiet small">{{ l.reason }}</p></td>
        <td>
          <LengthField v-if="UNITS[l.name] === 'mm'" :model-value="l.value" :label="TITLES[l.name] ?? l.name" @update:model-value="set(l.name, $event)" />
          <NumberField v-else :model-value="l.value" :label="TITLES[l.name] ?? l.name" :min="0" @update:model-value="set(l.name, $event)" />
        </td>
        <td class="left quiet">{{ unit(l.name) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
input { width: 68px; padding: 1px 5px; }
.limits td { vertical-align: top; }
.limits p { white-space: normal; line-height: 15px; max-width: 170px; }
.limits { margin-bottom: 18px; }
@media (max-width: 1150px) { .limits p { max-width: 300px; } }
</style>
