<script setup lang="ts">
import { computed } from 'vue'

import type { Bend, Blank } from '@/api/types'
import { length } from '@/lib/length'
import LengthField from '@/shell/LengthField.vue'
import NumberField from '@/shell/NumberField.vue'
import { useView } from '@/stores/view'

const props = defineProps<{ bend: Bend; blank: Blank }>()
const emit = defineEmits<{ own: [own: { bend_radius?: number; bend_k?: number } | null] }>()
const view = useView()
const figure = (mm: number) => length(mm, view.units, view.isMm ? 3 : 4)
const short = (mm: number) => String(Math.round((view.isMm ? mm : mm / 25.4) * 10000) / 10000)
const factor = computed(() => Math.round(props.bend.k * 10000) / 10000)
const sum = computed(
  () => `${Math.round(props.bend.angle * 1000) / 1000}° · π/180 · (${short(props.bend.inside_radius)} + ${factor.value} · ${short(props.blank.thickness)})`,
)
const rule = computed(() => props.blank.bend_rules[String(props.bend.id)])
const convention = computed(() =>
  props.bend.angle > 90
    ? 'Over 90° the setback is taken to the outermost point: radius and thickness.'
    : 'The setback is taken to where the outside faces would meet.',
)
</script>

<template>
  <div class="sum">
    <p>Bend {{ bend.id }} takes {{ sum }}</p>
    <p class="result">= {{ figure(bend.allowance) }} allowance</p>
    <dl class="facts">
      <dt>Outside setback</dt><dd class="num">{{ figure(bend.setback ?? 0) }}</dd><dd class="unit">{{ view.units }}</dd>
      <dt>Deduction, 2 · setback − allowance</dt><dd class="num">{{ figure(bend.deduction) }}</dd><dd class="unit">{{ view.units }}</dd>
      <dt>Turned · included</dt><dd class="num">{{ Math.round(bend.angle * 100) / 100 }} · {{ Math.round((bend.included_angle ?? 0) * 100) / 100 }}</dd><dd class="unit">°</dd>
      <dt>Length</dt><dd class="num">{{ figure(bend.length) }}</dd><dd class="unit">{{ view.units }}</dd>
    </dl>
    <p class="quiet small">{{ bend.origin }}. {{ convention }}</p>
    <div class="own">
      <label>R <LengthField :model-value="bend.inside_radius" label="Own inside radius" @update:model-value="emit('own', { bend_radius: $event })" /></label>
      <label>K <NumberField :min="0" :max="1" :model-value="factor" label="Own K" @update:model-value="emit('own', { bend_k: $event })" /></label>
      <button v-if="rule" type="button" class="bare small" @click="emit('own', null)">as modelled, by the chart</button>
      <span v-else class="quiet small">change for this bend alone</span>
    </div>
  </div>
</template>

<style scoped>
.sum { margin-top: 8px; padding: 7px 10px; background: var(--dye-wash); }
.result { font: 600 13px/20px var(--figures); color: var(--dye); }
.own { display: flex; align-items: center; gap: 8px; margin-top: 5px; }
.own label { display: flex; align-items: center; gap: 4px; }
.own input { width: 62px; padding: 1px 5px; }
</style>
