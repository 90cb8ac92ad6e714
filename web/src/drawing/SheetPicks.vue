<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Sheets } from '@/api/types'

import { CALLED, nearestPlace, type Place } from './chosenSizes'

/** Over the first sheet while a size is chosen: the place nearest to the pointer is ringed, a click takes it. */
const props = defineProps<{ sheets: Sheets; isRound: boolean }>()
const emit = defineEmits<{ chosen: [start: Place, end: Place] }>()
const REACH = 22
const surface = ref<HTMLElement>()
const near = ref<Place | null>(null)
const first = ref<Place | null>(null)
const page = computed(() => props.sheets.pages[0])

function style(place: Place): Record<string, string> {
  if (!page.value) return {}
  return { left: `${String((place.at[0] / page.value.width) * 100)}%`, top: `${String((1 - place.at[1] / page.value.height) * 100)}%` }
}

function look(event: PointerEvent | MouseEvent): void {
  const box = surface.value?.getBoundingClientRect()
  if (!box || !page.value) return
  const perPixel = page.value.width / box.width
  const at = [(event.clientX - box.left) * perPixel, page.value.height - (event.clientY - box.top) * perPixel] as const
  near.value = nearestPlace(props.sheets.places, at, REACH * perPixel, props.isRound)
}

function take(event: MouseEvent): void {
  look(event)
  const place = near.value
  if (!place) return
  if (props.isRound) emit('chosen', place, place)
  else if (!first.value) first.value = place
  else if (place !== first.value) {
    emit('chosen', first.value, place)
    first.value = null
  }
}
</script>

<template>
  <div ref="surface" class="picks" data-id="size-picks" @pointermove="look" @pointerleave="near = null" @click="take">
    <i v-if="first" class="ring taken" :style="style(first)" />
    <i v-if="near" class="ring" :style="style(near)"><b>{{ CALLED[near.kind] }}</b></i>
  </div>
</template>

<style scoped>
.picks { position: absolute; z-index: 2; inset: 0; cursor: crosshair; }
.ring { position: absolute; width: 15px; height: 15px; border: 2px solid var(--dye); border-radius: 50%; transform: translate(-50%, -50%); pointer-events: none; font-style: normal; }
.taken { background: color-mix(in srgb, var(--dye) 45%, transparent); }
.ring b { position: absolute; left: 16px; top: -20px; padding: 0 5px; background: var(--paper); border: 1px solid var(--hair); color: var(--ink); font-weight: 400; white-space: nowrap; }
</style>
