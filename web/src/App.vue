<script setup lang="ts">
import { watch } from 'vue'

import { useDownloads } from '@/shell/useDownloads'
import { useKeys } from '@/shell/useKeys'
import { useView } from '@/stores/view'

useKeys()
useDownloads()
const view = useView()
watch(() => view.shift, (shift) => (document.documentElement.dataset.shift = shift), { immediate: true, flush: 'sync' })
</script>

<template>
  <!-- Every length is written anew when inches are shown another way, and solids take the shift's colours. -->
  <RouterView :key="`${view.inches} ${view.shift}`" />
</template>
