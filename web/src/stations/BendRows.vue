<script setup lang="ts">
import { computed } from 'vue'

import type { Blank } from '@/api/types'
import { length } from '@/lib/length'
import { useSelection } from '@/stores/selection'
import { useView } from '@/stores/view'

const props = defineProps<{ blank: Blank }>()
const view = useView()
const selection = useSelection()
const decimals = computed(() => (view.isMm ? 3 : 4))
const rows = computed(() => props.blank.bends.map((b) => ({ ...b, mark: b.direction === 'up' ? '▲' : '▽' })))
const trim = (v: number) => String(Math.round(v * 100) / 100)
</script>

<template>
  <table class="rows bends">
    <thead><tr><th>no</th><th class="left">turn</th><th>R</th><th>K</th><th>allowance</th><th>from edge</th></tr></thead>
    <tbody>
      <tr
        v-for="b in rows" :key="b.id" class="can num" :class="{ picked: b.id === selection.shownBend }" :data-bend="b.id"
        @mouseenter="selection.hoveredBend = b.id" @mouseleave="selection.hoveredBend = null" @click="selection.bend = b.id"
      >
        <td>{{ b.id }}</td>
        <td class="left" :class="b.direction" :title="b.direction"><span aria-hidden="true">{{ b.mark }}</span> {{ trim(b.angle) }}°<span class="hidden">{{ b.direction }}</span></td>
        <td>{{ length(b.inside_radius, view.units, view.isMm ? 1 : 3) }}</td>
        <td>{{ b.k.toFixed(2).replace(/^0/, '') }}</td>
        <td>{{ length(b.allowance, view.units, decimals) }}</td>
        <td>{{ length(b.from_edge, view.units) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.hidden { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); }
</style>
