<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { computed } from 'vue'

import type { Blank, CornerRule } from '@/api/types'
import LengthField from '@/shell/LengthField.vue'
import { useSelection } from '@/stores/selection'

import type { Wanted } from './useBlank'

/** How corners are treated and bend lines put on the blank. */
const props = defineProps<{ blank: Blank }>()
const emit = defineEmits<{ change: [what: string, wanted: Wanted] }>()
const selection = useSelection()
const rule = computed(() => props.blank.corners[0])
const kinds = [{ value: 'sharp', title: 'as modelled' }, { value: 'round', title: 'rounded' }, { value: 'chamfer', title: 'chamfered' }]
const sides = [{ value: 'outside', title: 'outside' }, { value: 'inside', title: 'inside' }, { value: 'all', title: 'all' }]
const styles = [{ value: 'whole', title: 'whole lines' }, { value: 'ticks', title: 'end ticks' }, { value: 'none', title: 'none' }]

function setCorners(changed: Partial<Omit<CornerRule, 'kind'>> & { kind?: CornerRule['kind'] | 'sharp' }): void {
  if (changed.kind === 'sharp') return emit('change', 'Corners', { corners: [] })
  emit('change', 'Corners', (now) => ({
    corners: [{ kind: 'round', size: 2, side: 'outside', chosen: [], ...now.corners[0], ...changed } as CornerRule],
  }))
}

function setMarks(changed: Partial<Blank['line_marks']>): void {
  emit('change', 'Bend line marks', (now) => ({ line_marks: { ...now.line_marks, ...changed } }))
}
</script>

<template>
  <section>
    <h2>Corners and bend line marks</h2>
    <div class="field"><span>Corners</span>
      <span class="pair">
        <ElSelect :model-value="rule?.kind ?? 'sharp'" aria-label="Corners" @update:model-value="setCorners({ kind: $event })"><ElOption v-for="k in kinds" :key="k.value" :value="k.value" :label="k.title" /></ElSelect>
        <LengthField v-if="rule" :model-value="rule.size" label="Corner size" @update:model-value="setCorners({ size: $event })" />
      </span>
    </div>
    <div v-if="rule" class="field"><span>Which</span>
      <span class="pair">
        <ElSelect :model-value="rule.side" aria-label="Which corners" @update:model-value="setCorners({ side: $event })"><ElOption v-for="s in sides" :key="s.value" :value="s.value" :label="s.title" /></ElSelect>
        <button type="button" class="bare small" @click="selection.pick('corner')">{{ selection.picking === 'corner' ? 'done' : rule.chosen?.length ? `${rule.chosen.length} chosen` : 'choose some' }}</button>
        <button v-if="rule.chosen?.length" type="button" class="bare small" @click="setCorners({ chosen: [] })">all</button>
      </span>
    </div>
    <div v-if="blank.bends.length" class="field"><span>Bend lines</span>
      <span class="pair">
        <ElSelect :model-value="blank.line_marks.style" aria-label="Bend lines" @update:model-value="setMarks({ style: $event })"><ElOption v-for="s in styles" :key="s.value" :value="s.value" :label="s.title" /></ElSelect>
        <LengthField v-if="blank.line_marks.style === 'ticks'" :model-value="blank.line_marks.length ?? 10" label="Tick length" @update:model-value="setMarks({ length: $event })" />
      </span>
    </div>
    <label v-if="blank.bends.length && blank.line_marks.style !== 'none'" class="etch"><input type="checkbox" :checked="blank.line_marks.etched" @change="setMarks({ etched: !blank.line_marks.etched })" /> etched on the sheet, not only drawn</label>
  </section>
</template>

<style scoped>
.pair { display: flex; align-items: center; gap: 8px; min-width: 0; }
.pair :deep(.el-select) { flex: 1; }
.pair input { width: 70px; }
.etch { display: flex; align-items: center; gap: 6px; margin-top: 4px; }
</style>
