<script setup lang="ts">
import type { Finding } from '@/api/types'
import { useSignal } from '@/shell/useSignal'
import { useSelection } from '@/stores/selection'

/** The findings, worst first as they come; the one gone to is lit in both views. */
const props = defineProps<{ findings: Finding[] }>()
const selection = useSelection()

useSignal('finding', () => {
  if (!props.findings.length) return
  selection.finding = ((selection.finding ?? -1) + 1) % props.findings.length
})
</script>

<template>
  <section v-if="findings.length">
    <h2>Findings <span>{{ findings.length }} to look at · n</span></h2>
    <button
      v-for="(f, i) in findings" :key="i" type="button" class="finding" :class="[f.level, { at: i === selection.finding }]" :data-code="f.code"
      @click="selection.finding = selection.finding === i ? null : i"
    >{{ f.text }}</button>
  </section>
</template>

<style scoped>
button.finding { display: block; width: 100%; margin: 0 0 4px; text-align: left; background: none; color: var(--ink); font-weight: 400; border-width: 0 0 0 3px; border-radius: 0; }
button.at { background: var(--dye-wash); }
</style>
