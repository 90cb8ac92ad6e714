<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { computed } from 'vue'

import { Problem } from '@/api/problem'
import type { Blank, RackLine } from '@/api/types'
import { tell } from '@/shell/tell'
import { useSelection } from '@/stores/selection'

import MaterialField from './MaterialField.vue'

type Settings = Partial<Pick<Blank, 'own_k' | 'anchor'>>

const props = defineProps<{ blank: Blank; line: RackLine }>()
const emit = defineEmits<{ change: [what: string, body: Settings]; 'turn-over': []; turn: [] }>()
const selection = useSelection()
const files = computed(() => [
  { kind: 'dxf', title: 'DXF' },
  { kind: 'csv', title: 'Bend table CSV' },
  { kind: 'json', title: 'Blank JSON' },
])

function setFactor(event: Event): void {
  const field = event.target as HTMLInputElement
  const k = Number(field.value)
  if (field.value === '') emit('change', 'K from the chart', { own_k: null })
  else if (k >= 0 && k <= 1) emit('change', 'K', { own_k: k })
  else {
    tell(new Problem({ detail: `K is ${field.value}, it must lie between 0 and 1`, fix: 'Write for example 0.44' }))
    field.value = String(props.blank.k)
  }
}
</script>

<template>
  <section>
    <div class="field"><span>Material</span><MaterialField :line="line" /></div>
    <div class="field">
      <span>Factor K</span>
      <span class="pair"><input class="num" type="number" name="k" step="0.01" min="0" max="1" :value="blank.k" aria-label="K" @change="setFactor" />
        <button v-if="blank.own_k !== null" type="button" class="bare small" @click="emit('change', 'K from the chart', { own_k: null })">take the chart's</button>
        <span v-else class="quiet small">{{ blank.k_origin }}</span></span>
    </div>
    <div class="field">
      <span>Anchor panel</span>
      <span class="pair">
        <ElSelect :model-value="blank.anchor" aria-label="Anchor panel" @update:model-value="emit('change', 'Anchor panel', { anchor: $event })">
          <ElOption v-for="p in blank.panels" :key="p.id" :value="p.id" :label="`Panel ${p.id}`" />
        </ElSelect>
        <button type="button" class="bare small" @click="selection.isPickingAnchor = !selection.isPickingAnchor">pick</button>
      </span>
    </div>
    <div class="actions">
      <button type="button" @click="emit('turn-over')">Turn over<kbd>t</kbd></button>
      <button type="button" @click="emit('turn')">Turn by 90°<kbd>r</kbd></button>
    </div>
    <p class="files"><a v-for="f in files" :key="f.kind" :href="`/api/parts/${blank.part}/files/${f.kind}`" download>{{ f.title }}</a></p>
  </section>
</template>

<style scoped>
.pair { display: flex; align-items: center; gap: 8px; min-width: 0; }
.pair input { width: 74px; }
.pair .quiet { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.files { display: flex; gap: 14px; margin-top: 8px; }
</style>
