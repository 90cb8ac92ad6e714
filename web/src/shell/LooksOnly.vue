<script setup lang="ts">
import type { Right } from '@/api/types'

import { useMay } from './useMay'

/** Says once that what stands below is to be looked at, where a right is wanting to change it. */
defineProps<{ right: Right; what: string }>()
const may = useMay()
</script>

<template>
  <p v-if="!may(right)" class="looks-only">You may look. To change {{ what }} takes a right that you have not been given: see <RouterLink to="/people">People</RouterLink>.</p>
</template>

<style scoped>
.looks-only { margin: 4px 0 8px; padding: 4px 9px; border-left: 3px solid var(--quiet); background: var(--zinc); color: var(--ink); }
</style>
