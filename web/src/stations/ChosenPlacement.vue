<script setup lang="ts">
import type { Nest } from '@/api/types'
import { length } from '@/lib/length'
import { useView } from '@/stores/view'

defineProps<{ placement: Nest['sheets'][number]['placements'][number] }>()
const view = useView()
</script>

<template>
  <section>
    <h2>Chosen: {{ placement.part }}, copy {{ placement.copy }}</h2>
    <dl class="facts">
      <dt>From work zero</dt><dd class="num">{{ length(placement.x, view.units) }}&ensp;{{ length(placement.y, view.units) }}</dd><dd class="unit">{{ view.units }}</dd>
      <dt>Turned</dt><dd class="num">{{ placement.turn }}</dd><dd class="unit">°</dd>
    </dl>
  </section>
</template>
