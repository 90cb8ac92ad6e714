<script setup lang="ts" generic="T extends number | null">
import { computed, ref } from 'vue'

import { Problem } from '@/api/problem'

import { tell } from './tell'

/** A plain number; null where it may be left empty, with `placeholder` to say what that means. */
const props = defineProps<{ modelValue: T; label: string; min?: number; max?: number; whole?: boolean; placeholder?: string }>()
const emit = defineEmits<{ 'update:modelValue': [value: T] }>()
const typed = ref<string | null>(null)
const shown = computed(() => typed.value ?? (props.modelValue === null ? '' : String(props.modelValue)))

function settle(): void {
  if (typed.value === null) return
  const text = typed.value.trim().replace(',', '.')
  const value = text === '' ? null : Number(text)
  const isWithin = (n: number) => Number.isFinite(n) && n >= (props.min ?? -Infinity) && n <= (props.max ?? Infinity)
  const isFit = value === null ? props.placeholder !== undefined : isWithin(value) && (!props.whole || Number.isInteger(value))
  if (isFit && value !== props.modelValue) emit('update:modelValue', value as T)
  if (!isFit) {
    const kind = props.whole ? 'a whole number' : 'a number'
    const least = props.min === undefined ? '' : ` from ${String(props.min)} ${props.max === undefined ? 'on' : `to ${String(props.max)}`}`
    tell(new Problem({ detail: `${props.label}: “${typed.value}” is not ${kind}${least}`, fix: 'What was there before stays' }))
  }
  typed.value = null
}
</script>

<template>
  <input
    class="num" type="text" inputmode="decimal" :aria-label="label" :value="shown" :placeholder="placeholder"
    @input="typed = ($event.target as HTMLInputElement).value" @change="settle" @keydown.enter="settle"
  />
</template>
