<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { computed } from 'vue'

import { storesQuery } from '@/api/queries'
import TextField from '@/shell/TextField.vue'

import { fieldsOf, saidAt, withPressing, withSaid, type Step, type StepField } from './recipeSteps'

/** The fields of one step of a recipe; lengths take formulas. */
const props = defineProps<{ step: Step }>()
const emit = defineEmits<{ change: [step: Step] }>()
const set = (field: StepField, typed: string) => emit('change', withSaid(props.step, field, typed))
const { data: stores } = useQuery(storesQuery())
/** What Stores has to press into a hole, or to press out as a form. */
const pressings = computed(() => (stores.value?.pressings ?? []).filter((p) => (props.step.do === 'hole' && p.kind === 'in') || (props.step.do === 'form' && p.kind === 'out')))
const taken = computed(() => pressings.value.find((p) => p.name === ('press_in' in props.step ? props.step.press_in : 'note' in props.step ? props.step.note : ''))?.id)
function takeOver(id: number): void {
  const known = pressings.value.find((p) => p.id === id)
  if (known) emit('change', withPressing(props.step, known))
}
</script>

<template>
  <div class="step">
    <div v-if="pressings.length" class="field"><span>{{ step.do === 'hole' ? 'For what is pressed in' : 'Of those in Stores' }}</span>
      <ElSelect :model-value="taken" placeholder="none of Stores" aria-label="From Stores" @update:model-value="takeOver">
        <ElOption v-for="p in pressings" :key="p.id" :value="p.id" :label="p.name" />
      </ElSelect>
    </div>
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
