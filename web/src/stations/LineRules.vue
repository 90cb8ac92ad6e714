<script setup lang="ts">
import type { RackLine } from '@/api/types'

import { useLine } from './useLine'

const props = defineProps<{ line: RackLine }>()
const { change } = useLine()
const MOST = 9

function setPriority(event: Event): void {
  const field = event.target as HTMLInputElement
  const priority = Number(field.value)
  const { line } = props
  if (priority === line.priority) return
  if (field.value === '' || !Number.isInteger(priority) || priority < 0 || priority > MOST) field.value = String(line.priority)
  else change(line, 'Priority', { priority }, { priority: line.priority })
}

function setFiller(event: Event): void {
  const to = (event.target as HTMLInputElement).checked
  change(props.line, 'Filler', { is_filler: to }, { is_filler: !to })
}

function setMirror(event: Event): void {
  const to = (event.target as HTMLInputElement).checked
  change(props.line, 'Mirror', { may_mirror: to }, { may_mirror: !to })
}
</script>

<template>
  <section>
    <h2>In the nest</h2>
    <div class="field"><span>Priority</span><div><input class="num" type="number" name="priority" min="0" :max="MOST" :value="line.priority" aria-label="Priority" @change="setPriority" /><p class="quiet small">0 to {{ MOST }}; where sheets run out, the lower stay out first</p></div></div>
    <div class="field"><span>Filler</span><label class="tick"><input type="checkbox" name="filler" :checked="line.is_filler" @change="setFiller" />only where room is left</label></div>
    <div class="field"><span>Mirror</span><label class="tick"><input type="checkbox" name="mirror" :checked="line.may_mirror" @change="setMirror" />other face may lie up</label></div>
  </section>
</template>

<style scoped>
.tick { display: flex; align-items: center; gap: 6px; }
</style>
