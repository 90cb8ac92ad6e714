<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, onMounted, onScopeDispose, ref, shallowRef, watch } from 'vue'

import { meshQuery } from '@/api/queries'
import type { Blank, PanelName } from '@/api/types'
import { length } from '@/lib/length'
import { useSignal } from '@/shell/useSignal'
import { useSelection } from '@/stores/selection'
import { useView } from '@/stores/view'

import { inSequence, opened } from './fold'
import FoldedNames from './FoldedNames.vue'
import { FoldScene } from './FoldScene'
import type { Axis } from './section'

const props = defineProps<{ part: number; digest: string; blank?: Blank | undefined; names?: PanelName[] | undefined; chosen?: string[] | undefined }>()
const emit = defineEmits<{ anchor: [panel: number]; name: [name: string] }>()
const host = ref<HTMLElement | null>(null)
const scene = shallowRef<FoldScene | null>(null)
const view = useView()
const selection = useSelection()
const { data, refetch } = useQuery(computed(() => meshQuery(props.part)))
let frame = 0
let press: [number, number] = [0, 0]

const axis = ref<Axis | ''>('')
const order = computed(() => {
  const bends = [...(props.blank?.bends ?? [])].sort((a, b) => a.sequence - b.sequence)
  return new Map(bends.map((b, i) => [b.id, i]))
})
/** Bends that are shown opened, by the share of their angle that is left: the blank knows nothing of it. */
const open = ref<ReadonlyMap<number, number>>(new Map())
const lid = computed(() => props.blank?.bends.find((b) => b.id === selection.bend))
const lidTurn = computed(() => Math.round((lid.value?.angle ?? 0) * (open.value.get(lid.value?.id ?? 0) ?? 1) * 10) / 10)
function openTo(turn: number): void {
  const { id, angle } = lid.value ?? { id: 0, angle: 0 }
  const others = [...open.value].filter(([bend]) => bend !== id)
  open.value = new Map(turn < angle ? [...others, [id, turn / angle]] : others)
}
watch(() => props.digest, () => (open.value = new Map()))
const share = computed(() => opened(view.inSequence && order.value.size ? inSequence(order.value, view.fold) : view.fold, open.value))
const hurt = computed(() => props.blank?.findings.flatMap((f) => (f.code === 'folded-collision' ? (f.panels ?? []) : [])) ?? [])
const lit = computed(() => (selection.finding === null ? null : (props.blank?.findings[selection.finding]?.at ?? null)))
const readout = computed(() => {
  const [a, b] = selection.measured
  if (selection.picking !== 'measure') return ''
  if (!a || !b) return a ? 'Click the second place' : 'Click two places: corners are caught'
  const apart = Math.hypot(...a.p.map((v, i) => v - (b.p[i] ?? 0)))
  const angle = a.normal && b.normal ? Math.acos(Math.min(1, Math.max(-1, a.normal.reduce((s, v, i) => s + v * (b.normal?.[i] ?? 0), 0)))) : 0
  const turn = a.panel !== b.panel && a.panel && b.panel ? ` · panels ${a.panel} and ${b.panel} turned ${Math.round((angle * 1800) / Math.PI) / 10}°` : ''
  return `${length(apart, view.units)} ${view.units} apart${turn}`
})

function relight(): void {
  scene.value?.highlight({ bend: selection.shownBend, panel: selection.panel }, hurt.value)
  scene.value?.point(lit.value)
}

function refold(): void {
  scene.value?.fold(share.value)
  scene.value?.point(lit.value)
  scene.value?.section(axis.value || null, view.section)
}

onMounted(() => {
  if (!host.value) return
  scene.value = new FoldScene(host.value)
  if (data.value) scene.value.show(data.value)
  refold()
  relight()
})
watch(data, (mesh) => {
  if (!mesh) return
  scene.value?.show(mesh)
  refold()
  relight()
})
watch(() => props.digest, () => void refetch())
watch([share, axis, () => view.section], refold)
watch(() => [selection.shownBend, selection.panel, hurt.value, lit.value], relight)
watch(() => selection.measured, (points) => scene.value?.measure(points))

const playSeconds = () => (view.inSequence ? Math.max(1.6, 0.7 * order.value.size) : 1.6)
function play(): void {
  cancelAnimationFrame(frame)
  const [from, began] = [view.fold, performance.now()]
  const to = from > 0.5 ? 0 : 1
  function next(now: number): void {
    const t = Math.min(1, (now - began) / 1000 / playSeconds())
    view.fold = from + (to - from) * (view.inSequence ? t : t * t * (3 - 2 * t))
    if (t < 1) frame = requestAnimationFrame(next)
  }
  frame = requestAnimationFrame(next)
}
useSignal('play', play)
useSignal('fit', () => scene.value?.fit())

function move(event: PointerEvent): void {
  if (event.buttons) return
  selection.hoveredBend = scene.value?.pick(event.clientX, event.clientY).bend ?? null
}

function release(event: PointerEvent): void {
  if (Math.hypot(event.clientX - press[0], event.clientY - press[1]) > 4) return
  if (selection.picking === 'measure') {
    const spot = scene.value?.spotAt(event.clientX, event.clientY)
    if (spot) selection.measure(spot)
    return
  }
  const picked = scene.value?.pick(event.clientX, event.clientY)
  if (selection.picking === 'anchor' && picked?.panel) {
    emit('anchor', picked.panel)
    selection.pick('')
    return
  }
  selection.bend = picked?.bend ?? null
  selection.panel = picked?.panel ?? null
}

onScopeDispose(() => {
  cancelAnimationFrame(frame)
  scene.value?.dispose()
})
</script>

<template>
  <div class="folded">
    <div class="stage">
      <div ref="host" class="host" aria-label="Folded view" @pointermove="move" @pointerdown="press = [$event.clientX, $event.clientY]" @pointerup="release" @pointerleave="selection.hoveredBend = null" />
      <FoldedNames v-if="names && scene" :scene="scene" :names="names" :chosen="chosen ?? []" @pick="emit('name', $event)" />
    </div>
    <p v-if="readout" class="readout num" data-id="folded-measured">{{ readout }}</p>
    <div class="ways">
      <label><input v-model="view.inSequence" type="checkbox" /> bend by bend</label>
      <label>section <select v-model="axis" aria-label="Section"><option value="">none</option><option value="x">across x</option><option value="y">across y</option><option value="z">level</option></select></label>
      <label v-if="lid && lid.angle > 0" class="lid">bend {{ lid.id }} turned <input type="range" min="0" :max="lid.angle" step="0.5" :value="lidTurn" :aria-label="`How far bend ${lid.id} is turned`" @input="openTo(Number(($event.target as HTMLInputElement).value))" /> <span class="num">{{ lidTurn }}°</span></label>
      <input v-if="axis" v-model.number="view.section" type="range" min="0" max="1" step="0.005" aria-label="Where the section lies" />
    </div>
    <label class="slide">
      <span>flat</span>
      <input v-model.number="view.fold" type="range" min="0" max="1" step="0.01" aria-label="Fold" />
      <span>folded</span>
      <button type="button" class="bare" @click.prevent="play">play<kbd>f</kbd></button>
    </label>
  </div>
</template>

<style scoped>
.folded { display: flex; flex-direction: column; width: 100%; height: 100%; min-height: 0; }
.stage { position: relative; flex: 1; min-height: 0; overflow: hidden; }
.host { width: 100%; height: 100%; overflow: hidden; cursor: grab; }
.readout { position: absolute; left: 14px; top: 34px; padding: 1px 6px; background: var(--paper); color: var(--dye); font-weight: 600; }
.ways { display: flex; flex-wrap: wrap; align-items: center; gap: 2px 14px; min-height: 24px; padding: 0 14px; color: var(--quiet); font-size: 12.5px; }
.ways label { display: flex; align-items: center; gap: 5px; white-space: nowrap; }
.ways select { font: 12.5px var(--words); color: var(--ink); background-color: var(--paper); border: 1px solid var(--hair); border-radius: 2px; }
.slide { display: flex; align-items: center; gap: 8px; padding: 4px 14px 10px; color: var(--quiet); font-size: 12.5px; }
input[type='range'] { flex: 1; min-width: 60px; height: 18px; margin: 0; appearance: none; background: repeating-linear-gradient(to right, var(--quiet) 0 1px, transparent 1px calc((100% - 1px) / 6)) center / 100% 8px no-repeat, linear-gradient(var(--quiet), var(--quiet)) center / 100% 1px no-repeat; cursor: pointer; }
input::-webkit-slider-thumb { appearance: none; width: 12px; height: 18px; background: var(--dye); border-radius: 2px; }
</style>
