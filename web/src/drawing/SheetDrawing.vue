<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Nest, Program } from '@/api/types'
import { placeLabels } from '@/lib/labels'
import { length, sheetSize } from '@/lib/length'
import { rulerMarks } from '@/lib/ruler'
import type { Played } from '@/stations/usePlayback'
import { useView } from '@/stores/view'

import type { Point } from './apart'
import { placeMatrix } from './placeMatrix'
import { alongWay, orderNumbers } from './programPath'
import { useDragging } from './useDragging'
import { usePanZoom } from './usePanZoom'
import { usePierceDrag } from './usePierceDrag'

type Sheet = Nest['sheets'][number]

const props = defineProps<{
  nest: Nest
  sheet: Sheet
  program?: Program | undefined
  kerf?: number | undefined
  /** How far the program is played; all of it shows when it is not. */
  played?: Played | undefined
  picked?: readonly string[]
  locked?: readonly string[]
  mayMove?: boolean
  isStale?: boolean
  /** Parts that micro-joints hold: they never fall free. */
  held?: ReadonlySet<string> | undefined
  /** The run of the program that is looked at. */
  looked?: number | undefined
  /** A place to show. */
  spot?: readonly number[] | null | undefined
}>()
const emit = defineEmits<{ pick: [id: string, isMore: boolean]; move: [by: Point]; look: [run: number]; pierce: [run: number, at: Point] }>()
const HEAVY = 250
/** Where the number of a contour may stand by its pierce: which side, and how far down its foot is, px. */
const BESIDE = [[1, -3], [-1, -3], [1, 12], [-1, 12]] as const
const host = ref<HTMLElement | null>(null)
const picture = ref<SVGSVGElement | null>(null)
const units = useView()
const stock = computed(() => props.nest.stock.find((s) => s.id === props.sheet.sheet))
const { view, matrix, glide, toScreen } = usePanZoom(
  host,
  () => (stock.value ? { width: stock.value.width, height: stock.value.height } : null),
  { left: 18, right: 18, top: 10, bottom: 34 },
  () => props.sheet.placements.length > HEAVY,
)
// Past the template: thousands of parts would be compared at each frame.
watch(glide, (style) => picture.value && Object.assign(picture.value.style, style))
const { drag, begin } = useDragging(
  () => ({ nest: props.nest, sheet: props.sheet, picked: props.picked ?? [], scale: view.value.k }),
  (by) => emit('move', by),
)
const isPicked = (id: string) => props.picked?.includes(id) ?? false
const isLocked = (id: string) => props.locked?.includes(id) ?? false
const broken = computed(() => new Set(props.nest.faults.filter((f) => f.sheet === props.sheet.number).flatMap((f) => f.placements.map((c) => c.join(' ')))))

/** Pressing on a part picks it; going on from there drags it, and the sheet stays where it is. */
function press(event: PointerEvent, id: string): void {
  if (props.program || event.button !== 0) return
  if (event.shiftKey) {
    emit('pick', id, true)
    return
  }
  if (!isPicked(id)) emit('pick', id, false)
  if (props.mayMove && !isLocked(id)) begin(event)
}

const isDragged = (id: string) => drag.value !== null && isPicked(id) && !isLocked(id)

function matrixOf(p: (typeof placed.value)[number]): string {
  const by = isDragged(p.id) ? drag.value?.by : null
  return by ? placeMatrix({ ...p, x: p.x + by[0], y: p.y + by[1] }) : p.matrix
}
const parts = computed(() => new Map(props.nest.parts.map((p) => [p.id, p])))
const placed = computed(() =>
  props.sheet.placements.flatMap((p) => {
    const part = parts.value.get(p.part)
    if (!part) return []
    const turned = (p.turn ?? 0) % 180 !== 0
    const [w, h] = turned ? [part.height, part.width] : [part.width, part.height]
    return [{ ...p, id: `${p.part} ${p.copy}`, part, w, h, matrix: placeMatrix(p) }]
  }),
)
/** Big parts first, or a filled hole would hide what lies in it. */
const ordered = computed(() => {
  const bySize = [...placed.value].sort((a, b) => b.part.width * b.part.height - a.part.width * a.part.height)
  return drag.value ? [...bySize.filter((p) => !isPicked(p.id)), ...bySize.filter((p) => isPicked(p.id))] : bySize
})
const names = computed(() =>
  props.program
    ? []
    : placed.value.flatMap((p) => {
        const room = { w: p.w * view.value.k, h: p.h * view.value.k }
        const text = p.part.id
        const isLevel = room.w >= text.length * 7.4 + 8
        if (!isLevel && room.h < text.length * 7.4 + 8) return []
        if ((isLevel ? room.h : room.w) < 16) return []
        const by = isDragged(p.id) ? (drag.value?.by ?? [0, 0]) : [0, 0]
        const [x, y] = middle(p)
        return [{ id: p.id, text, turn: isLevel ? 0 : -90, ...toScreen([x + by[0], y + by[1]]) }]
      }),
)
function middle(p: (typeof placed.value)[number]): [number, number] {
  const t = ((p.turn ?? 0) * Math.PI) / 180
  const [cx, cy] = p.part.middle
  const x = p.mirrored ? -cx : cx
  return [p.x + x * Math.cos(t) - cy * Math.sin(t), p.y + x * Math.sin(t) + cy * Math.cos(t)]
}
const marks = computed(() =>
  stock.value ? rulerMarks(stock.value.width, view.value.k, units.units).map((m) => ({ ...m, ...toScreen([m.at, 0]) })) : [],
)
const used = computed(() => ({ from: toScreen([props.sheet.used_length, stock.value?.height ?? 0]), to: toScreen([props.sheet.used_length, 0]) }))
const rest = computed(() => {
  const s = stock.value
  const left = s ? s.width - props.sheet.used_length : 0
  if (!s || left < 60) return null
  const at = toScreen([props.sheet.used_length + left / 2, s.height / 2])
  return left * view.value.k > 110 ? { ...at, text: sheetSize(left, s.height, units.units) } : null
})
const order = computed(() => (props.program ? orderNumbers(props.program) : []))
const pierces = computed(() => props.program?.passes.flatMap((p, i) => (p.kind === 'cut' ? [{ ...toScreen(p.pierce), run: i, no: p.goes_on ? 0 : (order.value[i] ?? 0) }] : [])) ?? [])
const isCut = (i: number) => !props.played || i < props.played.pass
const freed = computed(() => {
  const done = props.program?.passes.filter((p, i) => p.name === 'outer' && props.played && i < props.played.pass) ?? []
  return new Set(done.map((p) => `${p.part} ${p.copy}`).filter((id) => !props.held?.has(id)))
})
/** The pass at work, and the head on it. */
const atWork = computed(() => (props.played ? props.program?.passes[props.played.pass] : undefined))
const track = ref<SVGPathElement | null>(null)
const head = computed(() => {
  const [pass, played] = [atWork.value, props.played]
  if (!pass || !played) return null
  if (played.phase === 'cut' && track.value) {
    const p = track.value.getPointAtLength(track.value.getTotalLength() * played.share)
    return toScreen([p.x, p.y])
  }
  const from = props.program?.passes[played.pass - 1]?.end ?? [0, 0]
  return toScreen(alongWay([from, ...pass.way], played.phase === 'rapid' ? played.share : 1))
})
const said = (pass: Program['passes'][number], i: number) =>
  `${pass.kind === 'cut' ? `${order.value[i] ?? ''}: ${pass.part} ${pass.copy}, ` : ''}${pass.name} · ${length(pass.length, units.units)} ${units.units} · ${pass.seconds.reduce((a, b) => a + b, 0).toFixed(1)} s`
/** As many numbers of the order as there is room for on the sheet, beside their pierce; zooming in shows more. */
const numbers = computed(() => {
  const [corner, far] = [toScreen([0, stock.value?.height ?? 0]), toScreen([stock.value?.width ?? 0, 0])]
  const firsts = pierces.value.filter((p) => p.no > 0)
  const wishes = firsts.map((p) => {
    const wide = String(p.no).length * 6.2 + 4
    const isOn = ([side, drop]: readonly [number, number]) =>
      p.x + side * wide > corner.x && p.x + side * wide < far.x && p.y + drop - 9 > corner.y && p.y + drop < far.y
    return BESIDE.filter(isOn).map(([side, drop]) => ({ x: p.x + side * 12, y: p.y + drop - 3, side, drop }))
  })
  const at = placeLabels(wishes.map((places) => ({ places, w: 34, h: 18 })), [])
  return firsts.flatMap((p, i) => {
    const place = wishes[i]?.[at[i] ?? -1]
    return place ? [{ no: p.no, x: p.x + 4 * place.side, y: p.y + place.drop, anchor: place.side > 0 ? 'start' : 'end' }] : []
  })
})
/** The pierces as they lie on each other: that of the contour looked at takes the pointer first. */
const stacked = computed(() => [...pierces.value].sort((a, b) => Number(a.run === props.looked) - Number(b.run === props.looked)))
const { pulled, pull } = usePierceDrag(
  () => ({ program: props.program, scale: view.value.k, host: picture.value, toScreen }),
  (run, at) => emit('pierce', run, at),
)
</script>

<template>
  <div ref="host" class="host">
  <svg ref="picture" class="sheet" :class="{ stale: isStale }" aria-label="Sheet">
    <template v-if="stock">
      <g :transform="matrix">
        <path class="stock" :d="stock.path" />
        <path
          v-for="p in ordered" :key="p.id" class="part"
          :class="{ chosen: isPicked(p.id), locked: isLocked(p.id), broken: broken.has(p.id) || (drag && !drag.isFree && isPicked(p.id)), faint: !!program, freed: freed.has(p.id) }"
          :d="p.part.path" :transform="matrixOf(p)" fill-rule="evenodd" :data-id="p.id" @pointerdown="press($event, p.id)" @mousedown.stop
        ><title>{{ p.id }}</title></path>
        <template v-if="program">
          <path class="rapid" :d="program.rapids" />
          <g v-for="(pass, i) in program.passes" v-show="isCut(i)" :key="i" class="pass" :class="[pass.kind, { looked: i === looked }]" :data-pass="i + 1" :data-contour="pass.kind === 'cut' ? `${pass.part} ${pass.copy} ${pass.name}` : pass.name" @click="pass.kind === 'cut' && emit('look', i)">
            <title>{{ said(pass, i) }}</title>
            <path class="kerf" :d="pass.path" :style="{ strokeWidth: `${Math.max(1, (kerf ?? 0.2) * view.k)}px` }" />
            <path class="lead" :d="pass.lead" />
          </g>
          <path
            v-if="atWork" ref="track" class="kerf" :d="atWork.path" pathLength="1"
            :style="{ strokeWidth: `${Math.max(1.6, (kerf ?? 0.2) * view.k)}px`, strokeDasharray: `${played?.phase === 'cut' ? played.share : 0} 2` }"
          />
        </template>
      </g>
      <g v-for="p in ordered.filter((o) => isLocked(o.id))" :key="`l${p.id}`" class="lock" :transform="`translate(${toScreen(middle(p)).x} ${toScreen(middle(p)).y + 16})`"><text>locked</text></g>
      <path class="used" :d="`M${used.from.x} ${used.from.y}V${used.to.y}`" />
      <g v-if="rest" class="rest"><text :x="rest.x" :y="rest.y - 8">left over</text><text class="figure" :x="rest.x" :y="rest.y + 10">{{ rest.text }}</text></g>
      <text v-for="n in names" :key="n.id" class="name" :class="{ chosen: isPicked(n.id) }" :transform="`translate(${n.x} ${n.y}) rotate(${n.turn})`" y="4">{{ n.text }}</text>
      <g v-for="p in stacked" :key="p.run" :transform="`translate(${p.x} ${p.y})`" class="pierce" :class="{ looked: p.run === looked }" :data-pierce="p.run + 1" @pointerdown.stop="p.no && pull($event, p.run)" @mousedown.stop><circle class="reach" r="7" /><circle r="2.2" /></g>
      <g v-if="pulled" class="pulled" :transform="`translate(${pulled.x} ${pulled.y})`"><circle r="5" /></g>
      <g v-if="spot" class="spot" :transform="`translate(${toScreen([spot[0] ?? 0, spot[1] ?? 0]).x} ${toScreen([spot[0] ?? 0, spot[1] ?? 0]).y})`"><circle r="14" /></g>
      <g v-if="head" class="head" :transform="`translate(${head.x} ${head.y})`"><circle r="6" /><path d="M-10 0H-3M3 0H10M0 -10V-3M0 3V10" /></g>
      <text v-for="p in numbers" :key="`n${p.no}`" class="no" :x="p.x" :y="p.y" :text-anchor="p.anchor">{{ p.no }}</text>
      <g v-for="m in marks" :key="m.at" class="ruler">
        <line :x1="m.x" :x2="m.x" :y1="m.y + 3" :y2="m.y + (m.figure ? 12 : 7)" /><text v-if="m.figure" :x="m.x" :y="m.y + 24">{{ m.figure }}</text>
      </g>
    </template>
  </svg>
  </div>
</template>

<style scoped>
.host { width: 100%; height: 100%; overflow: hidden; cursor: grab; touch-action: none; }
.sheet { width: 100%; height: 100%; display: block; }
.stock { fill: var(--room); stroke: var(--ink); stroke-width: 1.5; vector-effect: non-scaling-stroke; }
.part { fill: var(--metal); stroke: var(--ink); stroke-width: 1; vector-effect: non-scaling-stroke; cursor: pointer; }
.part:hover { fill: var(--metal-near); }
.part.chosen { fill: var(--metal-chosen); stroke: var(--dye); stroke-width: 2; }
.part.locked { stroke-width: 2.4; stroke-dasharray: 1 3; }
.part.broken { fill: var(--metal-broken); stroke: var(--oxide); stroke-width: 2; }
.part.freed { fill: var(--paper); stroke: var(--silhouette); stroke-width: 1; stroke-dasharray: 3 3; }
.part.faint:not(.freed) { stroke: none; fill: var(--metal-faint); }
.stale .part { fill: var(--metal-faint); stroke: var(--quiet); }
.used { stroke: var(--quiet); stroke-width: 1.4; stroke-dasharray: 2 4; fill: none; }
.rest text { fill: var(--quiet); text-anchor: middle; font: 14px var(--narrow); }
.rest .figure { font: 12.5px var(--figures); }
.name { font: 12px var(--figures); text-anchor: middle; fill: var(--ink); pointer-events: none; paint-order: stroke; stroke: var(--metal); stroke-width: 6px; stroke-linejoin: round; }
.name.chosen { stroke: var(--metal-chosen); }
.lock text { font: 11px var(--narrow); fill: var(--quiet); text-anchor: middle; pointer-events: none; paint-order: stroke; stroke: var(--metal); stroke-width: 4px; }
.kerf { fill: none; stroke: var(--dye); vector-effect: non-scaling-stroke; }
.lead { fill: none; stroke: var(--oxide); stroke-width: 1.4; vector-effect: non-scaling-stroke; }
.rapid { fill: none; stroke: var(--silhouette); stroke-width: 0.8; stroke-dasharray: 2 4; vector-effect: non-scaling-stroke; }
.pass:hover .kerf { stroke: var(--oxide); }
.head circle { fill: none; stroke: var(--oxide); stroke-width: 2; }
.head path { stroke: var(--oxide); fill: none; }
.pierce circle { fill: var(--oxide); }
.pierce .reach { fill: transparent; cursor: grab; pointer-events: all; }
.pierce.looked .reach { fill: none; stroke: var(--oxide); stroke-width: 1.5; }
.pulled circle { fill: none; stroke: var(--oxide); stroke-width: 2; }
.spot circle { fill: none; stroke: var(--oxide); stroke-width: 2; stroke-dasharray: 4 3; }
.pass.mark .kerf { stroke: var(--mark); stroke-dasharray: 1 2; }
.pass.scrap .kerf { stroke: var(--quiet); }
.pass.looked .kerf { stroke: var(--oxide); }
.no { pointer-events: none; font: 10px var(--figures); fill: var(--ink); paint-order: stroke; stroke: var(--paper); stroke-width: 2.5px; }
.ruler line { stroke: var(--quiet); }
.ruler text { font: 11px var(--figures); fill: var(--quiet); text-anchor: middle; }
</style>
