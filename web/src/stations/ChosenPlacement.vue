<script setup lang="ts">
import { computed } from 'vue'

import type { Nest } from '@/api/types'
import { length } from '@/lib/length'
import NumberField from '@/shell/NumberField.vue'
import { useView } from '@/stores/view'

type Placement = Nest['sheets'][number]['placements'][number]

const props = defineProps<{ nest: Nest; chosen: Placement[]; areLocked: boolean; number: number; mayMove: boolean }>()
const emit = defineEmits<{ turn: [by: number]; turnTo: [degrees: number]; mirror: []; lock: []; duplicate: []; takeOff: []; toSheet: [number: number] }>()
const view = useView()
const first = computed(() => props.chosen[0])
const part = computed(() => props.nest.parts.find((p) => p.id === first.value?.part))
const mayMirror = computed(() => props.chosen.every((c) => props.nest.parts.find((p) => p.id === c.part)?.may_mirror))
const others = computed(() => props.nest.sheets.filter((s) => s.number !== props.number))
const isSpare = computed(() => props.nest.unplaced.some((u) => u.part === first.value?.part))
/** Parts that may lie at any turn are turned freely; the others by their allowed turns only. */
const isFree = computed(() => part.value !== undefined && !part.value.turns)
function send(event: Event): void {
  const field = event.target as HTMLSelectElement
  if (field.value) emit('toSheet', Number(field.value))
  field.value = ''
}
</script>

<template>
  <section v-if="first" class="chosen">
    <h2>{{ chosen.length > 1 ? `Chosen: ${chosen.length} parts` : `Chosen: ${first.part}, copy ${first.copy}` }}</h2>
    <dl v-if="chosen.length === 1" class="facts">
      <dt>From work zero</dt><dd class="num">{{ length(first.x, view.units) }}&ensp;{{ length(first.y, view.units) }}</dd><dd class="unit">{{ view.units }}</dd>
      <dt>Turned</dt><dd class="num"><NumberField v-if="mayMove && isFree && !areLocked" class="turned" :model-value="first.turn ?? 0" label="Turned by" @update:model-value="emit('turnTo', $event)" /><template v-else>{{ first.turn }}</template>{{ first.mirrored ? ', mirrored' : '' }}</dd><dd class="unit">°</dd>
    </dl>
    <div v-if="mayMove" class="actions">
      <button type="button" :disabled="areLocked" title="q" @click="emit('turn', -1)">Turn back</button>
      <button type="button" :disabled="areLocked" title="e" @click="emit('turn', 1)">Turn on</button>
      <button type="button" :disabled="areLocked || !mayMirror" title="x" @click="emit('mirror')">Mirror</button>
      <button type="button" title="l" @click="emit('lock')">{{ areLocked ? 'Unlock' : 'Lock' }}</button>
      <button type="button" :disabled="!isSpare || chosen.length > 1" @click="emit('duplicate')">Duplicate</button>
      <button type="button" :disabled="areLocked" title="backspace" @click="emit('takeOff')">Take off</button>
      <select v-if="others.length" :disabled="areLocked" aria-label="Move to sheet" @change="send">
        <option value="">Move to sheet</option>
        <option v-for="s in others" :key="s.number" :value="s.number">{{ s.number }}</option>
      </select>
    </div>
    <p v-if="first.mirrored" class="finding warning">Mirrored: it is cut with its other face up, and seen from there every bend goes the other way. Bent as the table says it would be the other hand.</p>
    <p v-if="mayMove && !mayMirror && part" class="quiet small">May not be mirrored. Station 1 allows it for parts that may lie with their other face up.</p>
  </section>
</template>

<style scoped>
.turned { width: 72px; }
.actions { flex-wrap: wrap; }
</style>
