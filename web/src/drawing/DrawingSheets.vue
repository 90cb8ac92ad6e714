<script setup lang="ts">
import { ref } from 'vue'

import type { Sheets } from '@/api/types'
import { useSelection } from '@/stores/selection'
import { useView } from '@/stores/view'

import type { Place } from './chosenSizes'
import SheetPages from './SheetPages.vue'
import SheetPicks from './SheetPicks.vue'

/** The sheets of a drawing as they are printed; notes of bends are dragged on the first, sizes chosen by their ends. */
const props = defineProps<{ sheets: Sheets; part: number; isRound: boolean }>()
const emit = defineEmits<{ move: [bend: number, by: [number, number]]; 'lay-back': [bend: number]; size: [start: Place, end: Place] }>()
const selection = useSelection()
const view = useView()
const file = (sheet: number, kind: string) => `/api/parts/${String(props.part)}/sheets/${String(sheet)}/${kind}?${new URLSearchParams({ paper: view.paper, units: view.drawnIn }).toString()}`
type Note = Sheets['notes'][number]
const drag = ref<{ bend: number; x: number; y: number } | null>(null)
let from = { x: 0, y: 0, perPixel: 1 }

function place(note: Note): Record<string, string> {
  const page = props.sheets.pages[0]
  if (!page) return {}
  const { x, y } = drag.value?.bend === note.bend ? drag.value : { x: 0, y: 0 }
  return { left: `${String((note.at[0] / page.width) * 100)}%`, top: `${String((1 - note.at[1] / page.height) * 100)}%`, transform: `translate(-50%, -50%) translate(${String(x)}px, ${String(y)}px)` }
}

function begin(note: Note, event: PointerEvent): void {
  const handle = event.currentTarget as HTMLElement
  const [sheet, page] = [handle.closest('.page'), props.sheets.pages[0]]
  if (!sheet || !page) return
  handle.setPointerCapture(event.pointerId)
  from = { x: event.clientX, y: event.clientY, perPixel: page.width / sheet.getBoundingClientRect().width / props.sheets.scale }
  drag.value = { bend: note.bend, x: 0, y: 0 }
}

function go(event: PointerEvent): void {
  if (drag.value) drag.value = { ...drag.value, x: event.clientX - from.x, y: event.clientY - from.y }
}

function drop(note: Note): void {
  const by = drag.value
  drag.value = null
  // A click is no move.
  if (!by || Math.hypot(by.x, by.y) < 3) return
  const round = (v: number) => Math.round(v * 100) / 100
  emit('move', note.bend, [round(note.by[0] + by.x * from.perPixel), round(note.by[1] - by.y * from.perPixel)])
}
</script>

<template>
  <SheetPages :pages="sheets.pages" :file="file">
    <template #over="{ place: sheet }">
      <SheetPicks v-if="sheet === 0 && selection.picking === 'size'" :sheets="sheets" :is-round="isRound" @chosen="(start, end) => emit('size', start, end)" />
      <template v-else-if="sheet === 0">
        <button
          v-for="n in sheets.notes" :key="n.bend" type="button" class="handle" :class="{ moved: n.is_moved, dragged: drag?.bend === n.bend }" :style="place(n)"
          :aria-label="`Note of bend ${n.bend}`" :title="n.is_moved ? 'Drag it; a double click lays it back' : 'Drag the note'"
          @pointerdown="begin(n, $event)" @pointermove="go" @pointerup="drop(n)" @pointercancel="drag = null" @dblclick="n.is_moved && emit('lay-back', n.bend)"
        />
      </template>
    </template>
  </SheetPages>
</template>

<style scoped>
.handle { position: absolute; width: 26px; height: 26px; padding: 0; border: 1.5px solid transparent; border-radius: 50%; background: none; cursor: grab; touch-action: none; }
.handle:hover, .handle:focus-visible { border-color: var(--dye); background: none; }
.handle.moved { border: 1.5px dashed var(--dye); }
.handle.dragged { border-color: var(--dye); background: color-mix(in srgb, var(--dye) 18%, transparent); cursor: grabbing; }
</style>
