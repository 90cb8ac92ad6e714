<script setup lang="ts">
import { computed } from 'vue'

import type { Bend } from '@/api/types'
import { length } from '@/lib/length'
import { useView } from '@/stores/view'

const props = defineProps<{ bend: Bend; thickness: number; origin: string }>()
const view = useView()
const figure = (mm: number) => length(mm, view.units, view.isMm ? 3 : 4)
const short = (mm: number) => String(Number(length(mm, view.units, 4)))
const sum = computed(
  () => `${Math.round(props.bend.angle * 1000) / 1000}° · π/180 · (${short(props.bend.inside_radius)} + ${props.bend.k} · ${short(props.thickness)})`,
)
</script>

<template>
  <div class="sum">
    <p>Bend {{ bend.id }} takes {{ sum }}</p>
    <p class="result">= {{ figure(bend.allowance) }} allowance, {{ figure(bend.deduction) }} deduction</p>
    <p class="quiet small">{{ figure(bend.length) }} {{ view.units }} long · K from: {{ origin }}</p>
  </div>
</template>

<style scoped>
.sum { margin-top: 8px; padding: 7px 10px; background: var(--dye-wash); }
.result { font: 600 13px/20px var(--figures); color: var(--dye); }
</style>
