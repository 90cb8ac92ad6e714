<script setup lang="ts">
import type { RackLine } from '@/api/types'
import NumberField from '@/shell/NumberField.vue'

import { useLine } from './useLine'

const props = defineProps<{ line: RackLine }>()
const { change } = useLine()
const MOST = 9

const setPriority = (priority: number) => change(props.line, 'Priority', { priority }, { priority: props.line.priority })

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
    <div class="field"><span>Priority</span><div><NumberField name="priority" whole :min="0" :max="MOST" :model-value="line.priority" label="Priority" @update:model-value="setPriority" /><p class="quiet small">0 to {{ MOST }}; where sheets run out, the lower stay out first</p></div></div>
    <div class="field"><span>Filler</span><label class="tick"><input type="checkbox" name="filler" :checked="line.is_filler" @change="setFiller" />only where room is left</label></div>
    <div class="field"><span>Mirror</span><label class="tick"><input type="checkbox" name="mirror" :checked="line.may_mirror" @change="setMirror" />other face may lie up</label></div>
  </section>
</template>

<style scoped>
.tick { display: flex; align-items: center; gap: 6px; }
</style>
