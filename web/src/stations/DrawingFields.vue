<script setup lang="ts">
import { computed } from 'vue'

import type { MarkupChange, Sheets } from '@/api/types'
import TextField from '@/shell/TextField.vue'

/** What is added to a part's drawing by hand: its number, remarks, notes that were moved. */
const props = defineProps<{ sheets: Sheets }>()
const emit = defineEmits<{ change: [what: string, body: MarkupChange] }>()
const markup = computed(() => props.sheets.markup)
const fields = computed(() => markup.value.fields ?? {})
const remarks = computed(() => (markup.value.remarks ?? []).join('\n'))
const moved = computed(() => Object.entries(markup.value.moved ?? {}).map(([bend, note]) => ({ bend: Number(bend), ...note })))

function setRemarks(text: string): void {
  emit('change', 'Remarks', { remarks: text.split('\n').map((line) => line.trim()).filter((line) => line) })
}
</script>

<template>
  <section>
    <h2>On the drawing</h2>
    <div class="field"><span>Drawing no</span><TextField :model-value="markup.number ?? ''" label="Drawing no" @update:model-value="emit('change', 'Drawing no', { number: $event })" /></div>
    <div v-for="f in sheets.own_fields" :key="f.label" class="field"><span>{{ f.label }}</span><TextField :model-value="fields[f.label] ?? ''" :label="f.label" :placeholder="f.text" @update:model-value="emit('change', f.label, { fields: { ...fields, [f.label]: $event } })" /></div>
    <div class="field top"><span>Remarks</span><TextField kind="note" rows="3" :model-value="remarks" label="Remarks, a line each" @update:model-value="setRemarks" /></div>
    <p v-if="!moved.length" class="quiet small">Drag a bend’s number on the sheet to move its note.</p>
    <p v-for="n in moved" :key="n.bend" class="moved">
      Note of bend {{ n.bend }} moved
      <label><input type="checkbox" :checked="n.leader ?? true" @change="emit('change', 'Leader', { moved: { [n.bend]: { by: n.by, leader: !(n.leader ?? true) } } })"> leader</label>
      <button type="button" class="bare" @click="emit('change', 'Note laid back', { moved: { [n.bend]: null } })">lay back</button>
    </p>
    <p class="quiet small">What notes and tables say is settled for all drawings in <RouterLink to="/stores#drawings">Stores</RouterLink>.</p>
  </section>
</template>

<style scoped>
.top { align-items: start; }
.moved { display: flex; align-items: center; gap: 10px; }
.moved label { display: flex; align-items: center; gap: 4px; margin-left: auto; }
</style>
