<script setup lang="ts">
import { computed } from 'vue'

import { length } from '@/lib/length'
import { useSelection } from '@/stores/selection'
import { useView } from '@/stores/view'

/** The measured points and the distance between them, drawn over the flat. */
const props = defineProps<{ toScreen: (p: readonly [number, number]) => { x: number; y: number }; hover: [number, number] | null }>()
const selection = useSelection()
const view = useView()
const points = computed(() => selection.measured.map((m) => ({ ...props.toScreen([m.p[0], m.p[1]]), p: m.p })))
const cursor = computed(() => (props.hover ? props.toScreen(props.hover) : null))
const sum = computed(() => {
  const [a, b] = points.value
  if (!a || !b) return null
  const [dx, dy] = [b.p[0] - a.p[0], b.p[1] - a.p[1]]
  const text = `${length(Math.hypot(dx, dy), view.units)}  ↔ ${length(Math.abs(dx), view.units)}  ↕ ${length(Math.abs(dy), view.units)}`
  return { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 - 10, text, a, b }
})
</script>

<template>
  <g class="measure" pointer-events="none">
    <circle v-if="cursor" class="cursor" :cx="cursor.x" :cy="cursor.y" r="5" />
    <circle v-for="(p, i) in points" :key="i" class="end" :cx="p.x" :cy="p.y" r="3.5" />
    <g v-if="sum">
      <line :x1="sum.a.x" :y1="sum.a.y" :x2="sum.b.x" :y2="sum.b.y" />
      <text :x="sum.x" :y="sum.y" data-id="measured">{{ sum.text }}</text>
    </g>
  </g>
</template>

<style scoped>
.cursor { fill: none; stroke: var(--dye); stroke-width: 1.5; }
.end { fill: var(--dye); }
line { stroke: var(--dye); stroke-width: 1.5; }
text { font: 600 13px var(--figures); fill: var(--dye); text-anchor: middle; paint-order: stroke; stroke: var(--paper); stroke-width: 6px; white-space: pre; }
</style>
