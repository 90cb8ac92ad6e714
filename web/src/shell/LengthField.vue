<script setup lang="ts" generic="T extends number | null">
import { computed, ref } from 'vue'

import { length, readLength } from '@/lib/length'
import { useView } from '@/stores/view'

import { tell } from './tell'
import { Problem } from '@/api/problem'

/** A length; null where it may be left empty, with `placeholder` to say what is taken then. */
const props = defineProps<{ modelValue: T; label: string; decimals?: number; placeholder?: string }>()
const emit = defineEmits<{ 'update:modelValue': [value: T] }>()
const view = useView()
const typed = ref<string | null>(null)
const shown = computed(() => typed.value ?? (props.modelValue === null ? '' : length(props.modelValue, view.units, props.decimals)))

function settle(): void {
  if (typed.value === null) return
  const isEmpty = props.placeholder !== undefined && !typed.value.trim()
  const value = isEmpty ? null : readLength(typed.value, view.units)
  if (value === null && !isEmpty) {
    tell(new Problem({ detail: `${props.label}: “${typed.value}” is no length`, fix: 'Write 6, 6 mm, 1 7/16" or a sum such as 60 - 2*1.5' }))
  } else {
    emit('update:modelValue', value as T)
  }
  typed.value = null
}
</script>

<template>
  <input
    class="num" type="text" :aria-label="label" :value="shown" :placeholder="placeholder"
    @input="typed = ($event.target as HTMLInputElement).value" @change="settle" @keydown.enter="settle"
  />
</template>
