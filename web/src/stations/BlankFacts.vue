<script setup lang="ts">
import type { Blank } from '@/api/types'
import { length, longLength } from '@/lib/length'
import { useView } from '@/stores/view'

defineProps<{ blank: Blank }>()
const view = useView()
</script>

<template>
  <dl class="facts">
    <dt>Blank</dt><dd class="num size">{{ length(blank.width, view.units) }} × {{ length(blank.height, view.units) }}</dd><dd class="unit">{{ view.units }}</dd>
    <dt>Thickness</dt><dd class="num">{{ length(blank.thickness, view.units) }}</dd><dd class="unit">{{ view.units }}</dd>
    <dt>Net area</dt><dd class="num">{{ (blank.area / 1e6).toFixed(4) }}</dd><dd class="unit">m²</dd>
    <dt>Mass</dt><dd class="num">{{ blank.mass?.toFixed(3) ?? '—' }}</dd><dd class="unit">kg</dd>
    <dt>Outline and holes</dt><dd class="num">{{ longLength(blank.cut_length, view.units) }}</dd><dd class="unit">{{ view.units }}</dd>
  </dl>
</template>

<style scoped>
.facts { display: grid; }
.size { font-weight: 600; font-size: 14.5px; }
</style>
