<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { storeToRefs } from 'pinia'
import { computed } from 'vue'

import { useView } from '@/stores/view'

const props = defineProps<{ part: number }>()
const { paper, units } = storeToRefs(useView())
const papers = ['A4', 'A3', 'A2', 'A1', 'letter', 'tabloid', 'C', 'D']
const asked = computed(() => new URLSearchParams({ paper: paper.value, units: units.value }).toString())
const drawing = computed(() => `/api/parts/${props.part}/drawing?${asked.value}`)
const template = computed(() => `/api/parts/${props.part}/template?${asked.value}`)
</script>

<template>
  <div class="field">
    <span>Drawing on</span>
    <ElSelect v-model="paper" aria-label="Paper of the drawing">
      <ElOption value="" label="what fits" />
      <ElOption v-for="p in papers" :key="p" :value="p" :label="p" />
    </ElSelect>
  </div>
  <p class="links">
    <a :href="drawing" target="_blank" rel="noopener">Drawing PDF</a>
    <a :href="template" target="_blank" rel="noopener" title="The flat at 1:1 over the pages of a printer, to check cut parts by">Template 1:1</a>
  </p>
</template>

<style scoped>
.links { display: flex; gap: 14px; }
</style>
