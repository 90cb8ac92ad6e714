<script setup lang="ts">
import type { Run } from '@/api/types'

import { useRun } from './useRun'

const props = defineProps<{ run: Run | null; what: string }>()
const { hasFailed, stale } = useRun(() => props.run)
</script>

<template>
  <p v-if="hasFailed && run" class="note error" role="alert"><b>{{ what }} failed.</b> {{ run.where ? `${run.where}: ` : '' }}{{ run.what }}. {{ run.fix }}.</p>
  <p v-else-if="stale.length" class="note stale"><b>No longer current:</b> {{ stale.join(', ') }}. The figures are those of before.</p>
</template>

<style scoped>
.note { margin: 6px 0; padding: 4px 10px; border-left: 3px solid var(--oxide); background: var(--oxide-wash); color: var(--oxide); }
</style>
