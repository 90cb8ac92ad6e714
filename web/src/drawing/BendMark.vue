<script setup lang="ts">
import { computed } from 'vue'

const props = defineProps<{ x: number; y: number; number: number; isUp: boolean; isChosen: boolean }>()
const corners = computed(() =>
  Array.from({ length: 6 }, (_, i) => {
    const a = (Math.PI / 3) * i
    return `${(10 * Math.cos(a)).toFixed(2)},${(9 * Math.sin(a)).toFixed(2)}`
  }).join(' '),
)
const tone = computed(() => (props.isChosen ? 'chosen' : props.isUp ? 'up' : 'down'))
</script>

<template>
  <g :transform="`translate(${x} ${y})`" class="mark" :class="tone">
    <polygon :points="corners" />
    <text y="4">{{ number }}</text>
  </g>
</template>

<style scoped>
.mark polygon { fill: var(--paper); stroke: currentColor; stroke-width: 1.2; }
.mark text { font: 12px var(--figures); text-anchor: middle; fill: currentColor; }
.mark.up { color: var(--up); }
.mark.down { color: var(--down); }
.mark.chosen { color: var(--dye); }
.mark.chosen polygon { fill: var(--dye); }
.mark.chosen text { fill: var(--on-tone); }
</style>
