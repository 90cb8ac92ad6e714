<script setup lang="ts">
import { computed } from 'vue'

import type { Blank } from '@/api/types'
import { useSelection } from '@/stores/selection'

import { lean, readOutline, type Point } from './outline'

/** What can be clicked while something is picked: panels, straight edges, corners. */
const props = defineProps<{ blank: Blank; toScreen: (p: readonly [number, number]) => { x: number; y: number } }>()
const emit = defineEmits<{ anchor: [panel: number]; edge: [lean: number]; corner: [at: Point] }>()
const selection = useSelection()
const outer = computed(() => readOutline(props.blank.outer))
const panels = computed(() => props.blank.panels.map((panel) => ({ ...panel, ...props.toScreen(panel.at) })))
const edges = computed(() =>
  outer.value.edges.map((e) => ({ lean: lean(e), a: props.toScreen(e.a), b: props.toScreen(e.b) })),
)
/** Where the corners were before they were treated: a round one has no point to click any more. */
const corners = computed(() => {
  const side = props.blank.corners[0]?.side ?? 'all'
  const meant = props.blank.sharp_corners.filter((c) => side === 'all' || c.side === side)
  return meant.map((c) => ({ at: c.at as Point, ...props.toScreen(c.shown) }))
})
const isChosen = (at: Point) =>
  props.blank.corners.some((rule) => (rule.chosen ?? []).some((c) => Math.hypot(c[0] - at[0], c[1] - at[1]) < 0.5))

function pickPanel(panel: number): void {
  emit('anchor', panel)
  selection.pick('')
}

function pickEdge(turn: number): void {
  emit('edge', turn)
  selection.pick('')
}
</script>

<template>
  <g v-if="selection.picking === 'anchor'">
    <g v-for="panel in panels" :key="panel.id" class="panel" :data-id="`panel-${panel.id}`" @click.stop="pickPanel(panel.id)">
      <rect :x="panel.x - 13" :y="panel.y - 11" width="26" height="22" /><text :x="panel.x" :y="panel.y + 5">{{ panel.id }}</text>
    </g>
  </g>
  <g v-else-if="selection.picking === 'edge'">
    <line v-for="(e, i) in edges" :key="i" class="edge" :data-id="`edge-${i + 1}`" :x1="e.a.x" :y1="e.a.y" :x2="e.b.x" :y2="e.b.y" @click.stop="pickEdge(e.lean)" />
  </g>
  <g v-else-if="selection.picking === 'corner'">
    <circle v-for="(c, i) in corners" :key="i" class="corner" :class="{ chosen: isChosen(c.at) }" :data-id="`corner-${i + 1}`" :cx="c.x" :cy="c.y" r="7" @click.stop="emit('corner', c.at)" />
  </g>
</template>

<style scoped>
.panel, .edge, .corner { cursor: pointer; }
.panel rect { fill: var(--dye); }
.panel text { fill: var(--on-tone); font: 600 14px var(--figures); text-anchor: middle; }
.edge { stroke: color-mix(in srgb, var(--dye) 33%, transparent); stroke-width: 9; }
.edge:hover { stroke: var(--dye); }
.corner { fill: var(--paper); stroke: var(--dye); stroke-width: 2; }
.corner:hover, .corner.chosen { fill: var(--dye); }
</style>
