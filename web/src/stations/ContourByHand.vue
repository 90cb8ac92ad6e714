<script setup lang="ts">
import { computed } from 'vue'

import type { Program } from '@/api/types'
import { length } from '@/lib/length'
import NumberField from '@/shell/NumberField.vue'
import { useView } from '@/stores/view'

/** The contour that is looked at: what it takes, where it stands in the order, what is locked. */
const props = defineProps<{
  run?: Program['passes'][number] | undefined
  place: number
  /** The first and the last place it may take. */
  places: readonly [number, number]
  count: number
  isPierceKept: boolean
  isOrderKept: boolean
  isOpen: boolean
}>()
const emit = defineEmits<{ to: [place: number]; pierce: []; order: [] }>()
const view = useView()
const seconds = computed(() => props.run?.seconds.reduce((a, b) => a + b, 0) ?? 0)
const mm = (v: number) => length(v, view.units, 1)

</script>

<template>
  <section>
    <h2>Contour <span>{{ run ? `${run.part} ${run.copy}, ${run.name}` : 'none chosen' }}</span></h2>
    <p v-if="!run" class="quiet small">Click a contour to see it here. Its red pierce can be dragged along it.</p>
    <template v-else>
      <dl class="facts">
        <dt>Place in the order, of {{ count }}</dt><dd class="num"><NumberField whole :min="1" :max="count" :model-value="place + 1" :disabled="isOpen" label="Place in the order" @update:model-value="emit('to', $event - 1)" /></dd><dd />
        <dt>Pierce at</dt><dd class="num">{{ mm(run.pierce[0]) }}, {{ mm(run.pierce[1]) }}</dd><dd class="unit">{{ view.units }}</dd>
        <dt>Length with leads</dt><dd class="num">{{ mm(run.length) }}</dd><dd class="unit">{{ view.units }}</dd>
        <dt>Time with the way to it</dt><dd class="num">{{ seconds.toFixed(1) }}</dd><dd class="unit">s</dd>
      </dl>
      <div class="actions">
        <button type="button" :disabled="isOpen || place <= places[0]" @click="emit('to', place - 1)">Earlier</button>
        <button type="button" :disabled="isOpen || place >= places[1]" @click="emit('to', place + 1)">Later</button>
        <button type="button" :disabled="isOpen" @click="emit('pierce')">{{ isPierceKept ? 'Unlock its pierce' : 'Lock its pierce' }}</button>
      </div>
    </template>
    <div class="actions"><button type="button" :disabled="isOpen" @click="emit('order')">{{ isOrderKept ? 'Let the order be found' : 'Lock the order of this sheet' }}</button></div>
  </section>
</template>

<style scoped>
input { width: 64px; }
</style>
