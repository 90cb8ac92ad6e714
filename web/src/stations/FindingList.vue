<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Finding } from '@/api/types'
import { useSignal } from '@/shell/useSignal'

const props = defineProps<{ findings: Finding[] }>()
const at = ref(-1)
const ranked = computed(() => {
  const rank = { error: 0, warning: 1, note: 2 }
  return [...props.findings].sort((a, b) => rank[a.level] - rank[b.level])
})
useSignal('finding', () => (at.value = ranked.value.length ? (at.value + 1) % ranked.value.length : -1))
</script>

<template>
  <section v-if="ranked.length">
    <h2>Findings <span>{{ ranked.length }} to settle · n</span></h2>
    <p v-for="(f, i) in ranked" :key="i" class="finding" :class="[f.level, { at: i === at }]">{{ f.text }}</p>
  </section>
</template>

<style scoped>
.at { background: var(--dye-wash); }
</style>
