<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { computed } from 'vue'

import type { Blank, BlankChange, RackLine } from '@/api/types'
import NumberField from '@/shell/NumberField.vue'
import { useSelection } from '@/stores/selection'

import DrawingLinks from './DrawingLinks.vue'
import MaterialField from './MaterialField.vue'

const props = defineProps<{ blank: Blank; line: RackLine; isDrawing: boolean }>()
const emit = defineEmits<{ change: [what: string, body: BlankChange]; 'turn-over': []; turn: []; drawing: [] }>()
const selection = useSelection()
const files = [
  { kind: 'dxf', title: 'DXF' },
  { kind: 'csv', title: 'Bend table CSV' },
  { kind: 'json', title: 'Blank JSON' },
]
const METHODS: Record<string, string> = {
  k: 'one K', 'k-by-ratio': 'K by radius over thickness', 'din-6935': 'DIN 6935', allowance: 'allowance table', deduction: 'deduction table',
}
const chart = computed(() => `${props.blank.chart_name}, ${METHODS[props.blank.chart_method] ?? ''}`)
const grains = [{ value: 'free', title: 'does not matter' }, { value: 'along', title: 'along the width' }, { value: 'across', title: 'across the width' }]

const setFactor = (k: number | null) => emit('change', k === null ? 'K from the chart' : 'K', { own_k: k })
</script>

<template>
  <section>
    <div class="field"><span>Material</span><MaterialField :line="line" /></div>
    <div v-if="blank.bends.length" class="field"><span>Bend chart</span><span class="quiet small chart" :title="chart">{{ chart }}</span></div>
    <p v-if="blank.chart_has_moved" class="finding warning moved">
      The chart in Stores has moved on since this part was unfolded.
      <button type="button" class="bare" @click="emit('change', 'Chart as it is now', { take_chart: true })">Take it as it is now</button>
    </p>
    <div v-if="blank.bends.length" class="field">
      <span>K of this part</span>
      <span class="pair"><NumberField name="k" :min="0" :max="1" :model-value="blank.own_k" placeholder="chart" label="K" @update:model-value="setFactor" />
        <button v-if="blank.own_k !== null" type="button" class="bare small" @click="emit('change', 'K from the chart', { own_k: null })">take the chart's</button></span>
    </div>
    <div v-if="blank.panels.length > 1" class="field">
      <span>Anchor panel</span>
      <span class="pair">
        <ElSelect :model-value="blank.anchor" aria-label="Anchor panel" @update:model-value="emit('change', 'Anchor panel', { anchor: $event })">
          <ElOption v-for="p in blank.panels" :key="p.id" :value="p.id" :label="`Panel ${p.id}`" />
        </ElSelect>
        <button type="button" class="bare small" :class="{ on: selection.picking === 'anchor' }" @click="selection.pick('anchor')">pick</button>
      </span>
    </div>
    <div class="field">
      <span>Grain</span>
      <ElSelect :model-value="blank.grain || 'free'" aria-label="Grain" @update:model-value="emit('change', 'Grain', { grain: $event === 'free' ? '' : $event })">
        <ElOption v-for="g in grains" :key="g.value" :value="g.value" :label="g.title" />
      </ElSelect>
    </div>
    <div class="actions">
      <button type="button" @click="emit('turn-over')">Turn over<kbd>t</kbd></button>
      <button type="button" @click="emit('turn')">Turn by 90°<kbd>r</kbd></button>
      <button type="button" :class="{ main: selection.picking === 'edge' }" title="Click an edge: it comes to lie level" @click="selection.pick('edge')">Lay an edge level</button>
      <button type="button" :class="{ main: selection.picking === 'measure' }" @click="selection.pick('measure')">Measure<kbd>m</kbd></button>
      <button type="button" name="drawing" :class="{ main: isDrawing }" :title="isDrawing ? 'Back to the flat' : 'The drawing as it is printed, to be marked up'" @click="emit('drawing')">Drawing</button>
    </div>
    <p class="files"><a v-for="f in files" :key="f.kind" :href="`/api/parts/${blank.part}/files/${f.kind}`" download>{{ f.title }}</a></p>
    <DrawingLinks :part="blank.part" />
  </section>
</template>

<style scoped>
.pair { display: flex; align-items: center; gap: 8px; min-width: 0; }
.pair input { width: 74px; }
.chart { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.moved button { color: inherit; text-decoration: underline; }
.on { text-decoration: underline; }
.actions { flex-wrap: wrap; }
.files { display: flex; gap: 14px; margin-top: 8px; }
</style>
