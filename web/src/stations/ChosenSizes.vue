<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { computed, ref } from 'vue'

import type { Sheets } from '@/api/types'
import { amountOf, toleranceOf, WAYS, type Size, type Taken } from '@/drawing/chosenSizes'
import { length, shortLength } from '@/lib/length'
import LengthField from '@/shell/LengthField.vue'
import { useSelection } from '@/stores/selection'
import { useView } from '@/stores/view'

import type { WantedMarkup } from './useSheets'

/** Sizes chosen for a drawing: listed, given a tolerance, taken out; new ones are clicked on the sheet. */
const props = defineProps<{ sheets: Sheets }>()
const emit = defineEmits<{ change: [what: string, wanted: WantedMarkup] }>()
const way = defineModel<Taken>('way', { required: true })
const selection = useSelection()
const view = useView()
const open = ref<number | null>(null)
const sizes = computed(() => props.sheets.markup.sizes ?? [])
const isLost = (i: number) => props.sheets.lost_sizes.includes(i)

function said(size: Size): string {
  const mm = amountOf(size, props.sheets.places)
  return mm === null ? '' : length(mm, view.units)
}

function set(i: number, changed: Partial<Size>): void {
  emit('change', `Size ${String(i + 1)} of the drawing`, (now) => ({ sizes: now.markup.sizes?.map((s, j) => (j === i ? { ...s, ...changed } : s)) ?? [] }))
}

function setUpper(i: number, size: Size, upper: number | null): void {
  // One deviation alone is meant both ways.
  set(i, { upper, lower: upper === null ? null : (size.lower ?? -Math.abs(upper)) })
}

function setLower(i: number, size: Size, lower: number | null): void {
  set(i, { lower, upper: lower === null ? null : (size.upper ?? Math.abs(lower)) })
}

function drop(i: number): void {
  open.value = null
  emit('change', `Size ${String(i + 1)} taken out`, (now) => ({ sizes: now.markup.sizes?.filter((_, j) => j !== i) ?? [] }))
}
</script>

<template>
  <section>
    <h2>Chosen sizes <span>measured on the flat</span></h2>
    <ol class="told" v-if="sizes.length">
      <li v-for="(s, i) in sizes" :key="i" :class="{ lost: isLost(i) }">
        <button type="button" class="said" :aria-expanded="open === i" @click="open = open === i ? null : i">
          {{ WAYS.find((w) => w.value === s.way)?.title }} <span class="num">{{ said(s) }}</span> <span class="num">{{ toleranceOf(s, (v) => shortLength(v, view.units)) }}</span>
        </button>
        <p v-if="isLost(i)" class="small">It meets the part no more and is not drawn. Take it out or choose it anew.</p>
        <div v-if="open === i" class="fields">
          <div class="field"><span>Upper deviation</span><LengthField :model-value="s.upper ?? null" :decimals="3" placeholder="as in general" :label="`Upper deviation of size ${i + 1}`" @update:model-value="setUpper(i, s, $event)" /></div>
          <div class="field"><span>Lower deviation</span><LengthField :model-value="s.lower ?? null" :decimals="3" placeholder="as in general" :label="`Lower deviation of size ${i + 1}`" @update:model-value="setLower(i, s, $event)" /></div>
          <button type="button" class="bare" @click="drop(i)">Take it out</button>
        </div>
      </li>
    </ol>
    <div class="field"><span>Add one</span>
      <ElSelect v-model="way" aria-label="Which way the size is taken"><ElOption v-for="w in WAYS" :key="w.value" :value="w.value" :label="w.title" /></ElSelect>
    </div>
    <button type="button" name="choose-size" class="bare choose" @click="selection.pick('size')">{{ selection.picking === 'size' ? 'leave it' : 'click it on the sheet' }}</button>
  </section>
</template>

<style scoped>
.lost, .lost .said { color: var(--oxide); }
.choose { display: block; margin: 4px 0 0 auto; }
</style>
