<script setup lang="ts">
import { ref } from 'vue'

/** A button that takes a table in from a CSV file. */
const emit = defineEmits<{ table: [body: { text: string; name: string }] }>()
const chooser = ref<HTMLInputElement | null>(null)

async function take(): Promise<void> {
  const file = chooser.value?.files?.[0]
  if (!file) return
  emit('table', { text: await file.text(), name: file.name })
  if (chooser.value) chooser.value.value = ''
}
</script>

<template>
  <span><button type="button" class="bare" @click="chooser?.click()">CSV in</button><input ref="chooser" type="file" name="table" accept=".csv" hidden @change="take" /></span>
</template>
