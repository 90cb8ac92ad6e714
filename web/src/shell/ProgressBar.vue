<script setup lang="ts">
import { computed } from 'vue'

/** How far something is whose end is known. */
const props = defineProps<{ share: number; label: string }>()
const percent = computed(() => Math.round(props.share * 100))
</script>

<template>
  <span class="bar" role="progressbar" :aria-label="label" aria-valuemin="0" aria-valuemax="100" :aria-valuenow="percent"><i :style="{ width: `${percent}%` }" /></span>
</template>

<style scoped>
.bar { flex: 1; align-self: center; height: 4px; background: var(--hair); }
.bar i { display: block; height: 100%; background: var(--dye); transition: width 0.4s; }
</style>
