<script setup lang="ts">
import { computed } from 'vue'

import type { Blank } from '@/api/types'

/** What lies on the blank besides its outline: marks, the revision before, the grain. */
const props = defineProps<{ blank: Blank; matrix: string; scale: number; toScreen: (p: readonly [number, number]) => { x: number; y: number } }>()
const marks = computed(() =>
  props.blank.marks.map((m) => {
    const [from, to] = [props.toScreen(m.at), props.toScreen(m.end ?? m.at)]
    const line = m.end ? { x1: from.x, y1: from.y, x2: to.x, y2: to.y } : null
    // Beside the middle, where creases cross each other.
    return { ...m, line, x: from.x + (to.x - from.x) * 0.3, y: from.y + (to.y - from.y) * 0.3, r: Math.max(((m.diameter ?? 0) / 2) * props.scale, 3) }
  }),
)
/** What is cut in the flat alone, with a ring about it that says so. */
const flatOnly = computed(() =>
  props.blank.flat_cutouts.map((c) => ({ ...props.toScreen(c.at), r: (Math.hypot(c.length, c.width ?? 0) / 2) * props.scale + 5 })),
)
const before = computed(() =>
  props.blank.previous_outer && props.blank.changes.length
    ? props.blank.previous_outer + props.blank.previous_holes.join('')
    : '',
)
const overlaps = computed(() =>
  props.blank.findings.flatMap((f) => (f.outline?.length ? [f.outline.map((p) => p.join(' ')).join('L')] : [])),
)
const grain = computed(() => {
  if (!props.blank.grain) return null
  const high = props.toScreen([props.blank.width, props.blank.height])
  const is = props.blank.grain === 'along'
  return is ? `translate(${high.x - 84} ${high.y - 20})` : `translate(${high.x + 14} ${high.y + 78}) rotate(-90)`
})
const changes = computed(() => props.blank.changes.flatMap((c) => (c.at ? [{ ...c, ...props.toScreen(c.at) }] : [])))
</script>

<template>
  <g class="marks">
    <g v-if="before" :transform="matrix"><path class="before" :d="before" data-id="before" /></g>
    <g v-for="(area, i) in overlaps" :key="`o${i}`" :transform="matrix"><path class="overlap" :d="`M${area}Z`" data-id="overlap" /></g>
    <g v-for="(c, i) in changes" :key="`c${i}`" class="change" :transform="`translate(${c.x} ${c.y})`"><circle r="9" /><text y="4">{{ i + 1 }}</text><title>{{ c.text }}</title></g>
    <g v-for="(c, i) in flatOnly" :key="`f${i}`" :transform="`translate(${c.x} ${c.y})`" :data-id="`flat-cutout-${i + 1}`" class="mark">
      <circle :r="c.r" /><text :x="c.r + 3" y="4">flat only {{ i + 1 }}</text>
    </g>
    <g v-for="(m, i) in marks" :key="i" :data-id="`mark-${i + 1}`" class="mark">
      <line v-if="m.line" v-bind="m.line" />
      <g :transform="`translate(${m.x} ${m.y})`">
        <path v-if="m.kind === 'tapped-hole'" :d="`M${-m.r - 3} 0h${2 * m.r + 6}M0 ${-m.r - 3}v${2 * m.r + 6}`" />
        <circle v-else-if="!m.line" :r="m.r" />
        <text :x="m.r + 5" y="4">{{ m.note }}</text>
      </g>
    </g>
    <g v-if="grain" class="grain" :transform="grain"><path d="M0 0h78M0 0l9 -4M0 0l9 4M78 0l-9 -4M78 0l-9 4" /><text x="39" y="-4">grain</text></g>
  </g>
</template>

<style scoped>
.before { fill: none; stroke: var(--ochre); stroke-width: 1.3; stroke-dasharray: 3 3; vector-effect: non-scaling-stroke; }
.overlap { fill: color-mix(in srgb, var(--oxide) 27%, transparent); stroke: var(--oxide); stroke-width: 1.3; vector-effect: non-scaling-stroke; }
.change circle { fill: var(--paper); stroke: var(--ochre); stroke-width: 1.5; }
.change text { font: 600 11px var(--figures); fill: var(--ochre); text-anchor: middle; }
.mark path, .mark circle, .mark line { fill: none; stroke: var(--mark); stroke-width: 1.3; stroke-dasharray: 1.5 2.5; }
.mark text { font: 11px var(--figures); fill: var(--mark); paint-order: stroke; stroke: var(--blank); stroke-width: 4px; }
.grain path { stroke: var(--quiet); fill: none; }
.grain text { font: 12px var(--words); fill: var(--quiet); text-anchor: middle; }
</style>
