<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { computed } from 'vue'

import { storesQuery } from '@/api/queries'
import type { RackLine } from '@/api/types'

import { useLine } from './useLine'

const props = defineProps<{ line: RackLine }>()
const { data } = useQuery(storesQuery())
const { change } = useLine()
const value = computed(() => props.line.material ?? '')
const materials = computed(() => data.value?.materials ?? [])

function choose(material: string): void {
  if (!props.line.material) change(props.line, 'Material', { material }, { material })
  else change(props.line, 'Material', { material }, { material: props.line.material })
}
</script>

<template>
  <ElSelect :model-value="value" placeholder="Choose a material" aria-label="Material" @update:model-value="choose">
    <ElOption v-for="m in materials" :key="m.name" :value="m.name" :label="m.title" />
  </ElSelect>
</template>
