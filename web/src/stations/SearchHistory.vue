<script setup lang="ts">
import { computed, onMounted, onScopeDispose, ref } from 'vue'

import type { Nest } from '@/api/types'
import { counted } from '@/lib/counted'
import { placeLabels } from '@/lib/labels'
import { secondMarks } from '@/lib/ruler'

const props = defineProps<{ history: Nest['history']; seconds: number; word: string; isOpen: boolean }>()
const host = ref<HTMLElement | null>(null)
const room = ref(700)
const watcher = new ResizeObserver(([entry]) => entry && (room.value = entry.contentRect.width))
onMounted(() => host.value && watcher.observe(host.value))
onScopeDispose(() => watcher.disconnect())

const [LEFT, RIGHT, BASE, TOP] = [16, 46, 66, 18]
/** px that a figure takes up. */
const WIDE = 36
const span = computed(() => Math.max(props.seconds, ...props.history.map((h) => h.seconds), 1))
const range = computed(() => {
  const all = props.history.map((h) => h.utilisation)
  const [low, high] = [Math.min(...all), Math.max(...all)]
  return { low: low - 0.01, high: Math.max(high, low + 0.02) }
})
const points = computed(() =>
  props.history.map((h) => ({
    ...h,
    x: LEFT + (h.seconds / span.value) * (room.value - LEFT - RIGHT),
    y: BASE - 6 - ((h.utilisation - range.value.low) / (range.value.high - range.value.low)) * (BASE - TOP - 10),
    text: (h.utilisation * 100).toFixed(1),
  })),
)
/** A figure stands over the line right of its point, left of it or under it, wherever it fits beside the risers. */
const beside = (x: number, y: number) => [[20, -9], [-18, -9], [20, 10]].map(([dx = 0, dy = 0]) => ({ x: x + dx, y: y + dy })).filter((at) => at.x >= WIDE / 2)
const risers = computed(() => points.value.slice(1).map((p, i) => ({ x: p.x - 1, y: p.y, w: 2, h: (points.value[i]?.y ?? p.y) - p.y })))
const named = computed(() => {
  const newestFirst = [...points.value].reverse()
  const wishes = newestFirst.map((p) => ({ places: beside(p.x, p.y), w: WIDE, h: 12 }))
  const at = placeLabels(wishes, risers.value)
  return newestFirst.flatMap((p, i) => {
    const place = wishes[i]?.places[at[i] ?? -1]
    return place ? [{ text: p.text, seconds: p.seconds, ...place }] : []
  })
})
const line = computed(() => {
  const end = room.value - RIGHT
  return points.value.map((p, i) => `${i ? `H${p.x}V${p.y}` : `M${p.x} ${p.y}`}`).join('') + (props.isOpen ? '' : `H${end}`)
})
const better = computed(() => Math.max(0, props.history.length - 1))
const marks = computed(() => {
  const px = Math.max(room.value - LEFT - RIGHT, 1) / span.value
  return secondMarks(span.value, px).map((m) => ({ x: LEFT + m.at * px, text: m.figure }))
})
</script>

<template>
  <div ref="host" class="history">
    <p><b>Search</b> <span class="quiet">{{ word }} · {{ counted(better, 'better answer') }} since the first</span></p>
    <svg aria-label="Search history">
      <line class="base" :x1="LEFT" :x2="room - RIGHT" :y1="BASE" :y2="BASE" />
      <g v-for="m in marks" :key="m.x"><text class="figure" :x="m.x" :y="BASE + 13">{{ m.text }}</text></g>
      <text class="figure end" :x="room - 4" :y="BASE - 4">seconds</text>
      <path :d="line" />
      <circle v-for="p in points" :key="p.seconds" :cx="p.x" :cy="p.y" r="3.4" />
      <text v-for="p in named" :key="`t${p.seconds}`" :x="p.x" :y="p.y + 4">{{ p.text }}</text>
    </svg>
  </div>
</template>

<style scoped>
.history { padding: 4px 14px 0; border-top: 1px solid var(--hair); }
svg { width: 100%; height: 82px; display: block; }
.base { stroke: var(--quiet); }
path { fill: none; stroke: var(--dye); stroke-width: 1.8; }
circle { fill: var(--dye); }
text { font: 11.5px var(--figures); fill: var(--ink); text-anchor: middle; }
.figure { fill: var(--quiet); font-size: 11px; }
.end { text-anchor: end; font-family: var(--words); }
</style>
