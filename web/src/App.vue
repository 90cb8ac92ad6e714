<script setup lang="ts">
import { useKeys } from '@/shell/useKeys'
import { useView } from '@/stores/view'

useKeys()
const view = useView()
</script>

<template>
  <!-- Every length is written anew when inches are shown another way. -->
  <RouterView :key="view.inches" />
</template>
