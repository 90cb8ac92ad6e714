<script setup lang="ts">
import type { Blank } from '@/api/types'
import { area, AREA_UNIT, mass, MASS_UNIT } from '@/lib/amounts'
import { length, longLength } from '@/lib/length'
import { useView } from '@/stores/view'

defineProps<{ blank: Blank }>()
const view = useView()
</script>

<template>
  <dl class="facts">
    <dt>Blank</dt><dd class="num size">{{ length(blank.width, view.units) }} × {{ length(blank.height, view.units) }}</dd><dd class="unit">{{ view.units }}</dd>
    <dt>Thickness</dt><dd class="num">{{ length(blank.thickness, view.units) }}</dd><dd class="unit">{{ view.units }}</dd>
    <dt>Net area</dt><dd class="num">{{ area(blank.area, view.units).toFixed(view.isMm ? 4 : 3) }}</dd><dd class="unit">{{ AREA_UNIT[view.units] }}</dd>
    <dt>Mass</dt><dd class="num">{{ blank.mass === null ? '—' : mass(blank.mass, view.units).toFixed(3) }}</dd><dd class="unit">{{ MASS_UNIT[view.units] }}</dd>
    <dt>Outline and holes</dt><dd class="num">{{ longLength(blank.cut_length, view.units) }}</dd><dd class="unit">{{ view.units }}</dd>
  </dl>
</template>

<style scoped>
.facts { display: grid; }
.size { font-weight: 600; font-size: 14.5px; }
</style>
