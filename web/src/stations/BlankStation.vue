<script setup lang="ts">
import { computed, ref } from 'vue'

import type { OrderCard, RackLine } from '@/api/types'
import FlatDrawing from '@/drawing/FlatDrawing.vue'
import GaugeRule from '@/drawing/GaugeRule.vue'
import FoldedView from '@/folded/FoldedView.vue'
import ProblemNote from '@/shell/ProblemNote.vue'
import SlipPane from '@/shell/SlipPane.vue'
import { useSignal } from '@/shell/useSignal'
import { useSelection } from '@/stores/selection'

import AllowanceSum from './AllowanceSum.vue'
import BendRows from './BendRows.vue'
import BlankFacts from './BlankFacts.vue'
import FindingList from './FindingList.vue'
import UnfoldFields from './UnfoldFields.vue'
import { useBlank } from './useBlank'

const props = defineProps<{ order: OrderCard; lines: RackLine[]; line?: RackLine | undefined; part: number }>()
const selection = useSelection()
const ready = computed(() => (props.line?.state === 'ready' ? props.part : 0))
const { blank, error, isFetching, refetch, change } = useBlank(ready)
const flatView = ref<{ k: number; x: number; y: number } | null>(null)
const digest = computed(() => JSON.stringify([blank.value?.k, blank.value?.anchor, blank.value?.is_turned_over, blank.value?.quarter_turns]))
const chosen = computed(() => blank.value?.bends.find((b) => b.id === selection.shownBend))
const side = computed(() => (blank.value?.is_turned_over ? 'other face up' : 'face up as modelled'))

const turnOver = () => blank.value && change('Turn over', { is_turned_over: !blank.value.is_turned_over })
const turn = () => blank.value && change('Turn by 90°', { quarter_turns: (blank.value.quarter_turns + 1) % 4 })
const setAnchor = (anchor: number) => change('Anchor panel', { anchor })
useSignal('turn-over', turnOver)
useSignal('turn', turn)
</script>

<template>
  <main class="work">
    <ProblemNote v-if="error && !blank" :error="error" @again="refetch" />
    <p v-else-if="!line" class="none">The rack is empty. Drop STEP files onto it to see blanks here.</p>
    <p v-else-if="line.state !== 'ready'" class="none">{{ line.name }} is {{ line.state === 'reading' ? 'still being read' : 'refused' }}. {{ line.what }}</p>
    <template v-else-if="blank">
      <div class="views">
        <section class="flat-side">
          <p class="caption"><b>Flat</b> <span class="quiet">{{ side }} · seen from the side that lies up</span></p>
          <FlatDrawing :blank="blank" @view="flatView = $event" @anchor="setAnchor" />
        </section>
        <section class="folded-side">
          <p class="caption"><b>Folded</b> <span class="quiet">anchor panel {{ blank.anchor }}</span></p>
          <FoldedView :part="part" :digest="digest" @anchor="setAnchor" />
        </section>
      </div>
      <GaugeRule :blank="blank" :view="flatView" />
    </template>
  </main>
  <SlipPane :order="order" :title="line?.name ?? 'Blank'" :note="line ? `${line.quantity} pcs · ${line.source}` : ''">
    <div v-if="blank && line" :class="{ 'is-computing': isFetching && !blank }">
      <BlankFacts :blank="blank" />
      <UnfoldFields :blank="blank" :line="line" @change="change" @turn-over="turnOver" @turn="turn" />
      <section>
        <h2>Bends <span>{{ blank.bends.length ? 'click one for its sum' : '' }}</span></h2>
        <p v-if="!blank.bends.length" class="quiet">A flat part: nothing to bend.</p>
        <BendRows v-else :blank="blank" />
        <AllowanceSum v-if="chosen" :bend="chosen" :thickness="blank.thickness" :origin="blank.k_origin" />
      </section>
      <FindingList :findings="blank.findings" />
    </div>
  </SlipPane>
</template>

<style scoped>
.work { grid-area: work; display: flex; flex-direction: column; min-height: 0; min-width: 0; background: var(--paper); }
.views { flex: 1; display: grid; grid-template-columns: 61% 39%; min-height: 0; }
.flat-side, .folded-side { position: relative; display: flex; flex-direction: column; min-width: 0; min-height: 0; }
.folded-side { border-left: 1px solid var(--hair); }
.caption { position: absolute; z-index: 1; left: 14px; top: 8px; pointer-events: none; }
.folded-side .caption { left: 14px; }
.none { margin: 14vh auto; max-width: 420px; color: var(--quiet); font-size: 15px; }
</style>
