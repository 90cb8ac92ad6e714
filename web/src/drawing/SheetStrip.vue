<script setup lang="ts">
import { computed } from 'vue'

import type { Nest } from '@/api/types'
import { gaugeText } from '@/lib/gauges'

import { placeMatrix } from './placeMatrix'

const props = defineProps<{ nest: Nest; shown: number }>()
defineEmits<{ show: [number: number] }>()
const paths = computed(() => new Map(props.nest.parts.map((p) => [p.id, p.path])))
const sheets = computed(() =>
  props.nest.sheets.map((s) => {
    const stock = props.nest.stock.find((k) => k.id === s.sheet)
    return { ...s, stock, box: `0 0 ${stock?.width ?? 1} ${stock?.height ?? 1}`, flip: `matrix(1 0 0 -1 0 ${stock?.height ?? 1})` }
  }),
)
</script>

<template>
  <div class="strip" role="tablist" aria-label="Sheets">
    <button v-for="s in sheets" :key="s.number" type="button" role="tab" :aria-selected="s.number === shown" :class="{ on: s.number === shown }" :data-sheet="s.number" @click="$emit('show', s.number)">
      <svg :viewBox="s.box" height="40"><g :transform="s.flip"><path class="stock" :d="s.stock?.path ?? ''" /><path v-for="(p, i) in s.placements" :key="i" class="part" :d="paths.get(p.part) ?? ''" :transform="placeMatrix(p)" fill-rule="evenodd" /></g></svg>
      <span>{{ s.number }} · {{ s.stock ? gaugeText(s.stock.thickness, s.stock.material) : '' }}</span>
    </button>
  </div>
</template>

<style scoped>
.strip { display: flex; gap: 6px; overflow-x: auto; padding: 6px 14px; border-top: 1px solid var(--hair); }
button { flex: none; padding: 4px 6px 2px; border-color: transparent; color: var(--ink); font-size: 11.5px; }
button.on { border-color: var(--dye); background: var(--dye-wash); }
svg { display: block; margin: 0 auto 2px; max-width: 90px; }
.stock { fill: var(--room); stroke: var(--quiet); vector-effect: non-scaling-stroke; }
.part { fill: var(--silhouette); }
.on .part { fill: var(--dye); }
</style>
