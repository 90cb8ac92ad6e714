<script setup lang="ts">
import { useKeys } from '@/shell/useKeys'

useKeys()
</script>

<template>
  <RouterView />
</template>
