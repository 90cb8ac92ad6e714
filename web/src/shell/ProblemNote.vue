<script setup lang="ts">
import { computed } from 'vue'

import { asProblem } from '@/api/problem'

const props = defineProps<{ error: unknown }>()
const emit = defineEmits<{ again: [] }>()
const problem = computed(() => asProblem(props.error))
</script>

<template>
  <div class="problem" role="alert">
    <p class="what">{{ problem.message }}</p>
    <p v-if="problem.where" class="quiet">{{ problem.where }}</p>
    <p v-if="problem.fix">{{ problem.fix }}.</p>
    <button type="button" @click="emit('again')">Try again</button>
  </div>
</template>

<style scoped>
.problem { max-width: 460px; margin: 48px auto; padding: 4px 0 4px 14px; border-left: 3px solid var(--oxide); }
.what { font-weight: 600; color: var(--oxide); }
button { margin-top: 10px; }
</style>
