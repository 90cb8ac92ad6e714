<script setup lang="ts">
import { computed } from 'vue'

import type { Bend, Blank } from '@/api/types'
import { bendDistance } from '@/drawing/gaugeTicks'
import { length } from '@/lib/length'
import { useSelection } from '@/stores/selection'
import { useView } from '@/stores/view'

const props = defineProps<{ blank: Blank }>()
defineEmits<{ move: [bend: number, by: number] }>()
const view = useView()
const selection = useSelection()

function distance(bend: Bend) {
  const at = bendDistance(props.blank, view.edge, bend)
  return at === null ? { isAcross: true, from: `(${length(bend.from_edge, view.units)})` } : { isAcross: false, from: length(at, view.units) }
}

const rows = computed(() =>
  [...props.blank.bends]
    .sort((a, b) => a.sequence - b.sequence)
    .map((b) => ({
      ...b,
      mark: b.direction === 'up' ? '▲' : '▽',
      turn: String(Math.round(b.angle * 100) / 100),
      included: String(Math.round((180 - b.angle) * 100) / 100),
      ...distance(b),
      long: length(b.length, view.units, view.isMm ? 1 : 3),
    })),
)
</script>

<template>
  <table class="rows sequence">
    <thead><tr><th>step</th><th>bend</th><th class="left">turned</th><th>included</th><th>length</th><th>from edge</th><th /></tr></thead>
    <tbody>
      <tr
        v-for="(b, i) in rows" :key="b.id" class="can num" :class="{ picked: b.id === selection.shownBend }" :data-bend="b.id"
        @mouseenter="selection.hoveredBend = b.id" @mouseleave="selection.hoveredBend = null" @click="selection.bend = b.id"
      >
        <td>{{ i + 1 }}</td>
        <td>{{ b.id }}</td>
        <td class="left" :class="b.direction" :title="b.direction">{{ b.mark }} {{ b.turn }}°</td>
        <td>{{ b.included }}°</td>
        <td>{{ b.long }}</td>
        <td :class="{ along: !b.isAcross }">{{ b.from }}</td>
        <td class="move">
          <button type="button" class="bare" :disabled="i === 0" :aria-label="`Bend ${b.id} earlier`" @click.stop="$emit('move', b.id, -1)">↑</button>
          <button type="button" class="bare" :disabled="i === rows.length - 1" :aria-label="`Bend ${b.id} later`" @click.stop="$emit('move', b.id, 1)">↓</button>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.sequence th, .sequence td { padding-left: 2px; padding-right: 2px; }
.sequence th:nth-child(2), .sequence td:nth-child(2) { text-align: center; }
/* As wide as the bracket that others end in, so that decimal points stand under each other. */
.sequence td.along { padding-right: calc(2px + 1ch); }
.move { white-space: nowrap; }
.move button { padding: 0 1px; }
.move button:disabled { color: var(--hair); }
</style>
