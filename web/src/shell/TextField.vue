<script setup lang="ts">
import { computed, ref } from 'vue'

import { Problem } from '@/api/problem'

import { tell } from './tell'

/** A line of text, a date or a longer note, handed on when the field is left; `required` may not be empty. */
const props = defineProps<{ modelValue: string; label: string; kind?: 'text' | 'date' | 'note'; required?: boolean }>()
const emit = defineEmits<{ 'update:modelValue': [value: string] }>()
/** Until it is handed on; then what is kept is shown again, also when the server does not take the change. */
const typed = ref<string | null>(null)
const shown = computed(() => typed.value ?? props.modelValue)

function settle(): void {
  if (typed.value === null) return
  const text = typed.value.trim()
  typed.value = null
  if (text === props.modelValue) return
  if (text || !props.required) emit('update:modelValue', text)
  else tell(new Problem({ detail: `${props.label} cannot be empty`, fix: 'What was there before stays' }))
}

const take = (event: Event) => (typed.value = (event.target as HTMLInputElement).value)
</script>

<template>
  <textarea v-if="kind === 'note'" rows="2" :aria-label="label" :value="shown" @input="take" @change="settle" />
  <input v-else :type="kind ?? 'text'" :aria-label="label" :value="shown" @input="take" @change="settle" @keydown.enter="settle" />
</template>
