<script setup lang="ts">
import { computed, ref } from 'vue'

import { length, readLength } from '@/lib/length'
import { useView } from '@/stores/view'

import { tell } from './tell'
import { Problem } from '@/api/problem'

const props = defineProps<{ modelValue: number; label: string; decimals?: number }>()
const emit = defineEmits<{ 'update:modelValue': [value: number] }>()
const view = useView()
const typed = ref<string | null>(null)
const shown = computed(() => typed.value ?? length(props.modelValue, view.units, props.decimals))

function settle(): void {
  if (typed.value === null) return
  const value = readLength(typed.value, view.units)
  if (value === null) {
    tell(new Problem({ detail: `${props.label}: “${typed.value}” is no length`, fix: 'Write 6, 6 mm, 1 7/16" or a sum such as 60 - 2*1.5' }))
  } else {
    emit('update:modelValue', value)
  }
  typed.value = null
}
</script>

<template>
  <input
    class="num" type="text" :aria-label="label" :value="shown"
    @input="typed = ($event.target as HTMLInputElement).value" @change="settle" @keydown.enter="settle"
  />
</template>
