<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { PanelName } from '@/api/types'

import type { FoldScene } from './FoldScene'

/** The names of panels and the numbers of their free edges, written over the folded view where they lie. */
const props = defineProps<{ scene: FoldScene; names: PanelName[]; chosen: string[] }>()
defineEmits<{ pick: [name: string] }>()
const drawn = ref(0)
/** px: labels nearer than this lie on each other. */
const NEAR = 30


interface Label {
  name: string
  text: string
  place: [number, number]
}

/** The labels of a panel; where one of its edges is drawn too near its middle, that has the whole name instead. */
function labelsOf(panel: PanelName): Label[] {
  const put = (name: string, text: string, at: number[]): Label[] => {
    const place = props.scene.placeOf(panel.panel, at as [number, number])
    return place ? [{ name, text, place }] : []
  }
  const own = put(panel.name, panel.name, panel.at)
  const edges = panel.edges.flatMap((e) => put(`${panel.name}.${e.number}`, String(e.number), e.at))
  const middle = own[0]?.place
  const near = edges.find((e) => middle && Math.hypot(e.place[0] - middle[0], e.place[1] - middle[1]) < NEAR)
  if (!near) return [...own, ...edges]
  return edges.map((e) => (e === near ? { ...e, text: e.name } : e))
}

const labels = computed(() => {
  void drawn.value
  return props.names.flatMap(labelsOf)
})

watch(() => props.scene, (scene, _, onCleanup) => onCleanup(scene.afterDraw(() => drawn.value++)), { immediate: true })
</script>

<template>
  <button v-for="label in labels" :key="label.name" type="button" :class="{ panel: !label.name.includes('.'), chosen: chosen.includes(label.name) }" :data-name="label.name" :title="label.name" :style="{ left: `${label.place[0]}px`, top: `${label.place[1]}px` }" @click="$emit('pick', label.name)">{{ label.text }}</button>
</template>

<style scoped>
button { position: absolute; transform: translate(-50%, -50%); min-width: 18px; padding: 0 4px; border: 1px solid var(--dye); background: var(--paper); color: var(--dye); font: 500 12px/16px var(--figures); opacity: 0.9; }
button.panel { border-color: transparent; font: 600 13px/17px var(--narrow); color: var(--ink); }
button.chosen, button:hover { background: var(--dye); color: var(--on-tone); opacity: 1; }
</style>
