<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { storeToRefs } from 'pinia'
import { computed } from 'vue'

import { useView } from '@/stores/view'

const props = defineProps<{ part: number }>()
const { paper, drawnIn } = storeToRefs(useView())
const FITTING = 'what fits'
const papers = [FITTING, 'A4', 'A3', 'A2', 'A1', 'letter', 'tabloid', 'C', 'D']
const chosen = computed({
  get: () => paper.value || FITTING,
  set: (now: string) => { paper.value = now === FITTING ? '' : now },
})
const address = (kind: string) => `/api/parts/${props.part}/${kind}?${new URLSearchParams({ paper: paper.value, units: drawnIn.value }).toString()}`
</script>

<template>
  <p class="drawing">
    <a :href="address('drawing')" target="_blank" rel="noopener">Drawing PDF</a>
    <a :href="address('template')" target="_blank" rel="noopener" title="The flat at 1:1 over the pages of a printer, to check cut parts by">Template 1:1</a>
    <span class="quiet">on</span>
    <ElSelect v-model="chosen" aria-label="Paper of the drawing" size="small">
      <ElOption v-for="p in papers" :key="p" :value="p" :label="p" />
    </ElSelect>
  </p>
</template>

<style scoped>
.drawing { display: flex; align-items: center; gap: 12px; margin-top: 8px; }
.drawing .el-select { flex: 1; min-width: 80px; }
</style>
