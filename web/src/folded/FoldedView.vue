<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, onMounted, onScopeDispose, ref, shallowRef, watch } from 'vue'

import { meshQuery } from '@/api/queries'
import { useSignal } from '@/shell/useSignal'
import { useSelection } from '@/stores/selection'
import { useView } from '@/stores/view'

import { FoldScene } from './FoldScene'

const props = defineProps<{ part: number; digest: string }>()
const emit = defineEmits<{ anchor: [panel: number] }>()
const host = ref<HTMLElement | null>(null)
const scene = shallowRef<FoldScene | null>(null)
const view = useView()
const selection = useSelection()
const { data, refetch } = useQuery(computed(() => meshQuery(props.part)))
let frame = 0
let press: [number, number] = [0, 0]

function relight(): void {
  scene.value?.highlight({ bend: selection.shownBend, panel: selection.panel })
}

onMounted(() => {
  if (!host.value) return
  scene.value = new FoldScene(host.value)
  if (data.value) scene.value.show(data.value)
  scene.value.fold(view.fold)
  relight()
})
watch(data, (mesh) => {
  if (!mesh) return
  scene.value?.show(mesh)
  relight()
})
watch(() => props.digest, () => void refetch())
watch(() => view.fold, (share) => scene.value?.fold(share))
watch(() => [selection.shownBend, selection.panel], relight)

const PLAY_SECONDS = 1.6
function play(): void {
  cancelAnimationFrame(frame)
  const [from, began] = [view.fold, performance.now()]
  const to = from > 0.5 ? 0 : 1
  function next(now: number): void {
    const t = Math.min(1, (now - began) / 1000 / PLAY_SECONDS)
    view.fold = from + (to - from) * (t * t * (3 - 2 * t))
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
  const picked = scene.value?.pick(event.clientX, event.clientY)
  if (selection.isPickingAnchor && picked?.panel) {
    emit('anchor', picked.panel)
    selection.isPickingAnchor = false
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
    <div ref="host" class="host" aria-label="Folded view" @pointermove="move" @pointerdown="press = [$event.clientX, $event.clientY]" @pointerup="release" @pointerleave="selection.hoveredBend = null" />
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
.host { flex: 1; min-height: 0; overflow: hidden; cursor: grab; }
.slide { display: flex; align-items: center; gap: 8px; padding: 4px 14px 10px; color: var(--quiet); font-size: 12.5px; }
input { flex: 1; min-width: 60px; height: 18px; margin: 0; appearance: none; background: repeating-linear-gradient(to right, var(--quiet) 0 1px, transparent 1px calc((100% - 1px) / 6)) center / 100% 8px no-repeat, linear-gradient(var(--quiet), var(--quiet)) center / 100% 1px no-repeat; cursor: pointer; }
input::-webkit-slider-thumb { appearance: none; width: 12px; height: 18px; background: var(--dye); border-radius: 2px; }
</style>
