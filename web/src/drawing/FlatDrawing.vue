<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Bend, Blank } from '@/api/types'
import { length } from '@/lib/length'
import { useSelection } from '@/stores/selection'
import { useView } from '@/stores/view'

import { bendLabels } from './bendLabels'
import BendMark from './BendMark.vue'
import FlatMarks from './FlatMarks.vue'
import FlatMeasure from './FlatMeasure.vue'
import FlatPicks from './FlatPicks.vue'
import { readOutline, snapped, snapPoints, type Point } from './outline'
import { usePanZoom } from './usePanZoom'

const props = defineProps<{ blank: Blank }>()
const emit = defineEmits<{ view: [view: { k: number; x: number; y: number }]; anchor: [panel: number]; edge: [lean: number]; corner: [at: Point]; place: [at: Point] }>()
const svg = ref<SVGSVGElement | null>(null)
const selection = useSelection()
const units = useView()

const { view, matrix, toScreen } = usePanZoom(
  svg,
  () => ({ width: props.blank.width, height: props.blank.height }),
  { left: 64, right: 26, top: 44, bottom: 58 },
)
watch(view, (now) => emit('view', now), { immediate: true })

const corner = computed(() => ({ low: toScreen([0, 0]), high: toScreen([props.blank.width, props.blank.height]) }))
const labels = computed(() => bendLabels(props.blank, toScreen, units.units))
const lines = computed(() =>
  props.blank.bends.flatMap((bend) =>
    bend.lines.map((line, i) => ({ bend, key: `${bend.id}-${i}`, a: toScreen(line[0]), b: toScreen(line[1]) })),
  ),
)
const findings = computed(() =>
  props.blank.findings.flatMap((f, i) =>
    f.at && (f.level !== 'note' || i === selection.finding) ? [{ ...f, i, ...toScreen(f.at) }] : [],
  ),
)
const snaps = computed(() => ({
  points: snapPoints(props.blank),
  edges: [props.blank.outer, ...props.blank.holes.map((h) => h.path)].flatMap((path) => readOutline(path).edges),
}))
const hover = ref<Point | null>(null)

function place(event: MouseEvent): Point {
  const box = svg.value?.getBoundingClientRect()
  const { k, x, y } = view.value
  return [(event.clientX - (box?.left ?? 0) - x) / k, (y - (event.clientY - (box?.top ?? 0))) / k]
}
/** The place, or the corner or edge near it. */
const caught = (event: MouseEvent) => snapped(place(event), snaps.value.points, snaps.value.edges, 9 / view.value.k)

function move(event: MouseEvent): void {
  hover.value = selection.picking === 'measure' ? caught(event) : null
}

function click(event: MouseEvent): void {
  if (selection.picking === 'cutout') {
    emit('place', place(event))
    selection.pick('')
    return
  }
  if (selection.picking !== 'measure') return
  const [x, y] = caught(event)
  selection.measure({ p: [x, y, 0], panel: null, normal: null })
}
const wide = computed(() => ({ y: corner.value.low.y + 26, x0: corner.value.low.x, x1: corner.value.high.x }))
const tall = computed(() => ({ x: corner.value.low.x - 26, y0: corner.value.low.y, y1: corner.value.high.y }))
const size = (mm: number) => length(mm, units.units)

function lineClass(bend: Bend): Record<string, boolean> {
  return { up: bend.direction === 'up', down: bend.direction === 'down', chosen: bend.id === selection.shownBend }
}
</script>

<template>
  <svg ref="svg" class="flat" :class="{ picking: selection.picking }" aria-label="Flat view" @mousemove="move" @click="click" @click.self="selection.bend = null">
    <g :transform="matrix">
      <path :d="blank.outer + blank.holes.map((h) => h.path).join('')" class="metal" fill-rule="evenodd" data-id="outline" @click="selection.bend = null" />
    </g>
    <g v-for="line in lines" :key="line.key" :data-id="`bend-${line.bend.id}`" class="bend" :class="lineClass(line.bend)"
      @mouseenter="selection.hoveredBend = line.bend.id" @mouseleave="selection.hoveredBend = null" @click="selection.bend = line.bend.id">
      <line class="reach" :x1="line.a.x" :y1="line.a.y" :x2="line.b.x" :y2="line.b.y" />
      <line class="ink" :x1="line.a.x" :y1="line.a.y" :x2="line.b.x" :y2="line.b.y" />
    </g>
    <g v-for="label in labels" :key="label.bend.id" class="label" :class="lineClass(label.bend)"
      @mouseenter="selection.hoveredBend = label.bend.id" @mouseleave="selection.hoveredBend = null" @click="selection.bend = label.bend.id">
      <g v-if="label.note" :transform="`translate(${label.note.x} ${label.note.y}) rotate(${label.note.turn})`">
        <rect :x="-label.note.width / 2" y="-7" :width="label.note.width" height="14" />
        <path :class="label.bend.direction" :transform="`translate(${3 - label.note.width / 2} 0)`" :d="label.bend.direction === 'up' ? 'M0 4h9l-4.5 -8z' : 'M0 -4h9l-4.5 8z'" />
        <text :x="16 - label.note.width / 2" y="4">{{ label.note.text }}</text>
      </g>
      <BendMark :x="label.mark.x" :y="label.mark.y" :number="label.bend.id" :is-up="label.bend.direction === 'up'" :is-chosen="label.bend.id === selection.shownBend" />
    </g>
    <g class="size">
      <path :d="`M${wide.x0} ${wide.y - 7}v12M${wide.x1} ${wide.y - 7}v12M${wide.x0} ${wide.y}H${wide.x1}`" />
      <path class="tip" :d="`M${wide.x0} ${wide.y}l8 -2.5v5zM${wide.x1} ${wide.y}l-8 -2.5v5z`" />
      <text :x="(wide.x0 + wide.x1) / 2" :y="wide.y + 5">{{ size(blank.width) }}</text>
      <path :d="`M${tall.x - 5} ${tall.y0}h12M${tall.x - 5} ${tall.y1}h12M${tall.x} ${tall.y0}V${tall.y1}`" />
      <path class="tip" :d="`M${tall.x} ${tall.y0}l-2.5 -8h5zM${tall.x} ${tall.y1}l-2.5 8h5z`" />
      <text :transform="`translate(${tall.x + 5} ${(tall.y0 + tall.y1) / 2}) rotate(-90)`">{{ size(blank.height) }}</text>
    </g>
    <FlatMarks :blank="blank" :matrix="matrix" :scale="view.k" :to-screen="toScreen" />
    <g v-for="finding in findings" :key="finding.i" :transform="`translate(${finding.x} ${finding.y})`" class="finding" :class="[finding.level, { lit: finding.i === selection.finding }]"
      :data-id="`finding-${finding.i + 1}`" @click.stop="selection.finding = finding.i">
      <circle class="ring" r="17" /><path d="M0 -9l9 16h-18z" /><text y="4">!</text><title>{{ finding.text }}</title>
    </g>
    <FlatPicks :blank="blank" :to-screen="toScreen" @anchor="emit('anchor', $event)" @edge="emit('edge', $event)" @corner="emit('corner', $event)" />
    <FlatMeasure v-if="selection.picking === 'measure'" :to-screen="toScreen" :hover="hover" />
  </svg>
</template>

<style scoped>
.flat { width: 100%; height: 100%; cursor: grab; touch-action: none; display: block; }
.flat:active { cursor: grabbing; }
.metal { fill: var(--blank); stroke: var(--ink); stroke-width: 1.4; vector-effect: non-scaling-stroke; }
.bend { cursor: pointer; color: var(--up); }
.bend.down { color: var(--down); }
.bend .ink { stroke: currentColor; stroke-width: 1.4; stroke-dasharray: 13 5; }
.bend.down .ink { stroke-dasharray: 11 4 1.5 4; }
.bend .reach { stroke: transparent; stroke-width: 12; }
.bend.chosen .reach { stroke: color-mix(in srgb, var(--dye) 20%, transparent); }
.bend.chosen .ink { stroke: var(--dye); stroke-width: 2.4; }
.label { cursor: pointer; }
.label rect { fill: var(--blank); }
.label text { font: 12px var(--figures); fill: var(--up); }
.label path { fill: var(--up); stroke: var(--up); }
.label.down text { fill: var(--down); }
.label path.down { fill: var(--paper); stroke: var(--down); stroke-width: 1.3; }
.label.chosen text { fill: var(--dye); font-weight: 600; }
.size path { stroke: var(--quiet); fill: none; }
.size .tip { fill: var(--quiet); stroke: none; }
.size text { font: 600 15px var(--figures); text-anchor: middle; paint-order: stroke; stroke: var(--paper); stroke-width: 10px; fill: var(--ink); }
.finding path { fill: var(--ochre); }
.finding.error path { fill: var(--oxide); }
.finding text { fill: var(--on-tone); font: 600 11px var(--figures); text-anchor: middle; }
.finding { cursor: pointer; }
.finding.note path { fill: var(--quiet); }
.ring { fill: none; stroke: transparent; stroke-width: 2.5; }
.lit .ring { stroke: var(--dye); }
.picking { cursor: crosshair; }
</style>
