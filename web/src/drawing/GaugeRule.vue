<script setup lang="ts">
import { computed, onMounted, onScopeDispose, ref } from 'vue'

import type { Blank } from '@/api/types'
import { placeLabels } from '@/lib/labels'
import { length } from '@/lib/length'
import { rulerMarks } from '@/lib/ruler'
import { useSelection } from '@/stores/selection'
import { useView, type Edge } from '@/stores/view'

import { gaugeTicks } from './gaugeTicks'

const props = defineProps<{ blank: Blank; view: { k: number; x: number; y: number } | null }>()
const selection = useSelection()
const shown = useView()
const host = ref<HTMLElement | null>(null)
const room = ref(700)
const EDGES: Edge[] = ['left', 'right', 'bottom', 'top']
const BASE = 69
const watcher = new ResizeObserver(([entry]) => entry && (room.value = entry.contentRect.width))
onMounted(() => host.value && watcher.observe(host.value))
onScopeDispose(() => watcher.disconnect())

const isUpright = computed(() => shown.edge === 'bottom' || shown.edge === 'top')
const span = computed(() => (isUpright.value ? props.blank.height : props.blank.width))

/** Under the drawing the rule keeps the drawing's own scale; upright edges are laid level. */
const scale = computed(() => {
  const own = { k: Math.min(6, (room.value - 96) / span.value), x: 48, way: 1 }
  if (isUpright.value || !props.view) return own
  const { k, x } = props.view
  return shown.edge === 'left' ? { k, x, way: 1 } : { k, x: x + span.value * k, way: -1 }
})
const put = (mm: number) => scale.value.x + scale.value.way * mm * scale.value.k
const marks = computed(() => rulerMarks(span.value, scale.value.k, shown.units).map((m) => ({ ...m, x: put(m.at) })))
const ticks = computed(() => {
  const all = gaugeTicks(props.blank, shown.edge, shown.units).map((t) => ({ ...t, x: put(t.at), figure: length(t.at, shown.units) }))
  const bends = all.filter((t) => t.bend !== null).sort((a, b) => Number(b.bend === selection.shownBend) - Number(a.bend === selection.shownBend))
  const rows = placeLabels(
    bends.map((t) => ({ places: [{ x: t.x, y: 38 }, { x: t.x, y: 24 }, { x: t.x, y: 10 }], w: 56, h: 13 })),
    [{ x: 0, y: 0, w: 176, h: 17 }],
  )
  const holes = all.filter((t) => t.bend === null).map((t) => ({ ...t, row: null }))
  return [...holes, ...bends.map((t, i) => ({ ...t, row: rows[i] ?? null })).reverse()]
})
</script>

<template>
  <div ref="host" class="rule">
    <label>Gauge rule · from the
      <select v-model="shown.edge" aria-label="Edge to gauge from"><option v-for="e in EDGES" :key="e" :value="e">{{ e }} edge</option></select>
    </label>
    <svg aria-label="Gauge rule">
      <line class="base" :x1="put(0)" :x2="put(span)" :y1="BASE" :y2="BASE" />
      <g v-for="m in marks" :key="m.at">
        <line class="base" :x1="m.x" :x2="m.x" :y1="BASE" :y2="m.figure ? BASE - 9 : BASE - 4.5" />
        <text v-if="m.figure" class="figure" :x="m.x" :y="BASE + 13">{{ m.figure }}</text>
      </g>
      <g v-for="t in ticks" :key="t.key" class="tick" :class="[t.direction, { chosen: t.bend !== null && t.bend === selection.shownBend, hole: t.bend === null }]"
        :data-id="t.bend === null ? t.key : `tick-${t.bend}`"
        @mouseenter="selection.hoveredBend = t.bend" @mouseleave="selection.hoveredBend = null" @click="selection.bend = t.bend">
        <line class="reach" :x1="t.x" :x2="t.x" y1="30" :y2="BASE" />
        <line v-if="t.bend !== null" :x1="t.x" :x2="t.x" :y1="t.row === null ? 50 : 45" :y2="BASE" />
        <template v-else><line :x1="t.x" :x2="t.x" y1="57" :y2="BASE" /><circle :cx="t.x" cy="54" r="3" /></template>
        <text v-if="t.bend !== null && t.row !== null" :x="t.x" :y="42 - 14 * t.row">{{ t.figure }}</text>
        <title>{{ t.text }}: {{ t.figure }} {{ shown.units }}</title>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.rule { position: relative; flex: none; height: 88px; border-top: 1px solid var(--hair); overflow: hidden; background: var(--paper); }
label { position: absolute; z-index: 1; left: 12px; top: 2px; font: 12.5px var(--narrow); color: var(--quiet); }
select { font: 12.5px var(--narrow); color: var(--ink); border: 0; background: none; padding: 0; }
svg { width: 100%; height: 88px; display: block; }
.base { stroke: var(--quiet); }
.figure { font: 11px var(--figures); fill: var(--quiet); text-anchor: middle; }
.tick { color: var(--quiet); cursor: pointer; }
.tick line { stroke: currentColor; stroke-width: 1.4; }
.tick .reach { stroke: transparent; stroke-width: 9; }
.tick circle { fill: var(--paper); stroke: currentColor; }
.tick text { font: 600 12.5px var(--figures); fill: currentColor; text-anchor: middle; }
.tick.up { color: var(--up); }
.tick.down { color: var(--down); }
.tick.chosen { color: var(--dye); }
.tick.chosen line:not(.reach) { stroke-width: 2.6; }
</style>
