<script setup lang="ts">
import { storeToRefs } from 'pinia'

import { useView } from '@/stores/view'

import PaperField from './PaperField.vue'

const props = defineProps<{ part: number }>()
const { paper, drawnIn } = storeToRefs(useView())
const address = (kind: string) => `/api/parts/${props.part}/${kind}?${new URLSearchParams({ paper: paper.value, units: drawnIn.value }).toString()}`
</script>

<template>
  <p class="drawing">
    <a :href="address('drawing')" target="_blank" rel="noopener">Drawing PDF</a>
    <a :href="address('template')" target="_blank" rel="noopener" title="The flat at 1:1 over the pages of a printer, to check cut parts by">Template 1:1</a>
    <span class="quiet">on</span>
    <PaperField />
  </p>
</template>

<style scoped>
.drawing { display: flex; align-items: center; gap: 12px; margin-top: 8px; }
</style>
