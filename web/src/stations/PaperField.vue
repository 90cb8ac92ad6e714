<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { storeToRefs } from 'pinia'
import { computed } from 'vue'

import { useView } from '@/stores/view'

/** The paper that this browser has drawings made on. */
const { paper } = storeToRefs(useView())
const FITTING = 'what fits'
const papers = [FITTING, 'A4', 'A3', 'A2', 'A1', 'letter', 'tabloid', 'C', 'D']
const chosen = computed({
  get: () => paper.value || FITTING,
  set: (now: string) => { paper.value = now === FITTING ? '' : now },
})
</script>

<template>
  <ElSelect v-model="chosen" class="paper-size" aria-label="Paper of the drawing" size="small">
    <ElOption v-for="p in papers" :key="p" :value="p" :label="p" />
  </ElSelect>
</template>

<style scoped>
.paper-size { flex: 1; min-width: 80px; }
</style>
