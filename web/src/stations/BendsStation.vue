<script setup lang="ts">
import { computed, ref } from 'vue'

import type { OrderCard, RackLine } from '@/api/types'
import FlatDrawing from '@/drawing/FlatDrawing.vue'
import GaugeRule from '@/drawing/GaugeRule.vue'
import { counted } from '@/lib/counted'
import ProblemNote from '@/shell/ProblemNote.vue'
import SlipPane from '@/shell/SlipPane.vue'
import { useSelection } from '@/stores/selection'
import { useView } from '@/stores/view'

import AllowanceSum from './AllowanceSum.vue'
import DrawingLinks from './DrawingLinks.vue'
import SequenceTable from './SequenceTable.vue'
import { sequenceOf, useBlank } from './useBlank'

const props = defineProps<{ order: OrderCard; lines: RackLine[]; line?: RackLine | undefined; part: number }>()
const selection = useSelection()
const view = useView()
const ready = computed(() => (props.line?.state === 'ready' ? props.part : 0))
const { blank, error, refetch, change, changeBend } = useBlank(ready)
const flatView = ref<{ k: number; x: number; y: number } | null>(null)
const chosen = computed(() => blank.value?.bends.find((b) => b.id === selection.shownBend))
const total = computed(() => blank.value?.bends.reduce((sum, b) => sum + b.length, 0) ?? 0)

function move(bend: number, by: number): void {
  change('Bend sequence', (now) => {
    const order = sequenceOf(now)
    const from = order.indexOf(bend)
    const to = from + by
    if (from < 0 || to < 0 || to >= order.length) return undefined
    order.splice(to, 0, ...order.splice(from, 1))
    return { sequence: order }
  })
}
</script>

<template>
  <main class="work">
    <ProblemNote v-if="error && !blank" :error="error" @again="refetch" />
    <p v-else-if="!line || line.state !== 'ready'" class="none">{{ line ? `${line.name} is not ready.` : 'Drop STEP or DXF files onto the rack to see their bends.' }}</p>
    <template v-else-if="blank">
      <div class="flat-side">
        <p class="caption"><b>Bends of {{ blank.name }}</b> <span class="quiet">seen from the side that lies up · filled triangle up, open triangle down</span></p>
        <FlatDrawing :blank="blank" @view="flatView = $event" />
      </div>
      <GaugeRule :blank="blank" :view="flatView" />
    </template>
  </main>
  <SlipPane :order="order" :title="line?.name ?? 'Bends'" :note="blank ? `${counted(blank.bends.length, 'bend')} · ${(total / (view.isMm ? 1000 : 25.4)).toFixed(2)} ${view.isMm ? 'm' : 'in'} altogether` : ''">
    <template v-if="blank">
      <section>
        <h2>Bend table <span>distances from the {{ view.edge }} edge, {{ view.units }}</span></h2>
        <p v-if="!blank.bends.length" class="quiet">A flat part: nothing to bend.</p>
        <SequenceTable v-else :blank="blank" @move="move" />
        <div class="actions"><a class="button" :href="`/api/parts/${blank.part}/files/csv`" download>Bend table CSV</a></div>
        <DrawingLinks :part="blank.part" />
      </section>
      <AllowanceSum v-if="chosen" :bend="chosen" :blank="blank" @own="changeBend(chosen.id, $event)" />
      <p class="hint quiet small">Choose the edge to gauge from in the rule under the drawing. A bend that runs across that edge shows its distance from the nearer edge along it, in brackets.</p>
    </template>
  </SlipPane>
</template>

<style scoped>
.work { grid-area: work; display: flex; flex-direction: column; min-height: 0; min-width: 0; background: var(--paper); }
.flat-side { flex: 1; position: relative; min-height: 0; }
.caption { position: absolute; z-index: 1; left: 14px; top: 8px; pointer-events: none; }
.none { margin: 14vh auto; max-width: 420px; color: var(--quiet); font-size: 15px; }
.hint { margin-top: 12px; }
</style>
