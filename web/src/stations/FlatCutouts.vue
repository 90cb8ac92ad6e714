<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { ref } from 'vue'

import type { Blank } from '@/api/types'
import type { Point } from '@/drawing/outline'
import { length } from '@/lib/length'
import LengthField from '@/shell/LengthField.vue'
import NumberField from '@/shell/NumberField.vue'
import { useSelection } from '@/stores/selection'
import { useView } from '@/stores/view'

import type { Wanted } from './useBlank'

/** Cutouts that exist only in the flat, across bends too: listed, changed, and placed by a click. */
defineProps<{ blank: Blank }>()
const emit = defineEmits<{ change: [what: string, wanted: Wanted] }>()
type Cutout = Blank['flat_cutouts'][number]
const selection = useSelection()
const view = useView()
const size = (mm: number) => length(mm, view.units)
const KINDS: readonly { value: Cutout['kind']; title: string; length: string }[] = [
  { value: 'hole', title: 'hole', length: 'Diameter' },
  { value: 'slot', title: 'slot', length: 'Length over all' },
  { value: 'rectangle', title: 'rectangle', length: 'Length' },
]
const begun = ref<Cutout['kind']>('hole')
const open = ref<number | null>(null)
const shape = (kind: Cutout['kind']) => (kind === 'hole' ? { kind, length: 8, width: 0, turn: 0 } : { kind, length: 20, width: 8, turn: 0 })
const HUNDREDTH = 100

function place(at: Point): void {
  const [x, y] = at.map((v) => Math.round(v * HUNDREDTH) / HUNDREDTH) as [number, number]
  emit('change', 'Cutout in the flat', (now) => ({ flat_cutouts: [...now.flat_cutouts, { ...shape(begun.value), at: [x, y] }] }))
}
defineExpose({ place })

function set(i: number, changed: Partial<Cutout>): void {
  emit('change', `Cutout ${i + 1} in the flat`, (now) => ({ flat_cutouts: now.flat_cutouts.map((c, j) => (j === i ? { ...c, ...changed } : c)) }))
}

function drop(i: number): void {
  open.value = null
  emit('change', `Cutout ${i + 1} taken out`, (now) => ({ flat_cutouts: now.flat_cutouts.filter((_, j) => j !== i) }))
}
</script>

<template>
  <section>
    <h2>Cut in the flat alone <span>not in the folded part</span></h2>
    <ol class="told" v-if="blank.flat_cutouts.length">
      <li v-for="(c, i) in blank.flat_cutouts" :key="i">
        <button type="button" class="said" :aria-expanded="open === i" @click="open = open === i ? null : i">
          {{ c.kind }} <span class="num">{{ size(c.length) }}{{ c.kind === 'hole' ? '' : ` × ${size(c.width ?? 0)}` }}</span> at <span class="num">{{ size(c.at[0]) }}, {{ size(c.at[1]) }}</span>
        </button>
        <div v-if="open === i" class="fields">
          <div class="field"><span>x of its middle</span><LengthField :model-value="c.at[0]" :label="`x of cutout ${i + 1}`" @update:model-value="set(i, { at: [$event, c.at[1]] })" /></div>
          <div class="field"><span>y of its middle</span><LengthField :model-value="c.at[1]" :label="`y of cutout ${i + 1}`" @update:model-value="set(i, { at: [c.at[0], $event] })" /></div>
          <div class="field"><span>{{ KINDS.find((k) => k.value === c.kind)?.length }}</span><LengthField :model-value="c.length" :label="`Length of cutout ${i + 1}`" @update:model-value="set(i, { length: $event })" /></div>
          <template v-if="c.kind !== 'hole'">
            <div class="field"><span>Width</span><LengthField :model-value="c.width ?? 0" :label="`Width of cutout ${i + 1}`" @update:model-value="set(i, { width: $event })" /></div>
            <div class="field"><span>Turned by, °</span><NumberField :model-value="c.turn ?? 0" :min="-360" :max="360" :label="`Turn of cutout ${i + 1}`" @update:model-value="set(i, { turn: $event })" /></div>
          </template>
          <button type="button" class="bare" @click="drop(i)">Take it out</button>
        </div>
      </li>
    </ol>
    <div class="field"><span>Add a</span>
      <span class="pair">
        <ElSelect v-model="begun" aria-label="Cutout to add"><ElOption v-for="k in KINDS" :key="k.value" :value="k.value" :label="k.title" /></ElSelect>
        <button type="button" name="place-cutout" class="bare" @click="selection.pick('cutout')">{{ selection.picking === 'cutout' ? 'click its place, or leave it' : 'click its place' }}</button>
      </span>
    </div>
  </section>
</template>

<style scoped>
.pair { display: flex; align-items: center; gap: 8px; min-width: 0; }
.pair :deep(.el-select) { flex: 1; }
</style>
