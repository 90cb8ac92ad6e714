<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'

import TextField from '@/shell/TextField.vue'

import { fieldsOf, saidAt, withSaid, type Step, type StepField } from './recipeSteps'

/** The fields of one step of a recipe; lengths take formulas. */
const props = defineProps<{ step: Step }>()
const emit = defineEmits<{ change: [step: Step] }>()
const set = (field: StepField, typed: string) => emit('change', withSaid(props.step, field, typed))
</script>

<template>
  <div class="step">
    <div v-for="field in fieldsOf(step)" :key="field.path" class="field" :class="{ long: field.kind === 'outline' }"><span>{{ field.title }}</span>
      <ElSelect v-if="field.choices" :model-value="saidAt(step, field)" :aria-label="field.title" @update:model-value="set(field, $event)">
        <ElOption v-for="c in field.choices" :key="c" :value="c" :label="c" />
      </ElSelect>
      <TextField v-else :class="{ num: field.kind === 'amount' || field.kind === 'count' }" :model-value="saidAt(step, field)" :label="field.title" :kind="field.kind === 'outline' ? 'note' : 'text'" :required="field.empty === undefined" :placeholder="field.empty" @update:model-value="set(field, $event)" />
    </div>
  </div>
</template>

<style scoped>
.step .field.long { display: block; }
.step { padding: 4px 0 8px 10px; border-left: 2px solid var(--dye); }
</style>
