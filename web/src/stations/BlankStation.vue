<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'

import type { OrderCard, RackLine } from '@/api/types'
import DrawingSheets from '@/drawing/DrawingSheets.vue'
import { wayOf, type Place, type Taken } from '@/drawing/chosenSizes'
import FlatDrawing from '@/drawing/FlatDrawing.vue'
import type { Point } from '@/drawing/outline'
import GaugeRule from '@/drawing/GaugeRule.vue'
import FoldedView from '@/folded/FoldedView.vue'
import { counted } from '@/lib/counted'
import ProblemNote from '@/shell/ProblemNote.vue'
import SlipPane from '@/shell/SlipPane.vue'
import { useSignal } from '@/shell/useSignal'
import { useSelection } from '@/stores/selection'

import AllowanceSum from './AllowanceSum.vue'
import BendRows from './BendRows.vue'
import BlankFacts from './BlankFacts.vue'
import ChosenSizes from './ChosenSizes.vue'
import ChangeList from './ChangeList.vue'
import CornerFields from './CornerFields.vue'
import DrawingFields from './DrawingFields.vue'
import FindingList from './FindingList.vue'
import FlatCutouts from './FlatCutouts.vue'
import UnfoldFields from './UnfoldFields.vue'
import { foldDigest, useBlank } from './useBlank'
import { useSheets } from './useSheets'
import { useShown } from './useShown'

const props = defineProps<{ order: OrderCard; lines: RackLine[]; line?: RackLine | undefined; part: number }>()
const selection = useSelection()
const ready = computed(() => (props.line?.state === 'ready' ? props.part : 0))
const { blank, error, isFetching, refetch, change, changeBend } = useBlank(ready)
const isDrawing = useShown('drawing')
const { sheets, error: drawingError, refetch: drawAgain, change: markUp } = useSheets(computed(() => (isDrawing.value ? ready.value : 0)))
const sizeWay = ref<Taken>('square')
const cutouts = useTemplateRef('cutouts')
const flatView = ref<{ k: number; x: number; y: number } | null>(null)
const digest = computed(() => foldDigest(blank.value))
const chosen = computed(() => blank.value?.bends.find((b) => b.id === selection.shownBend))
const side = computed(() => (blank.value?.is_turned_over ? 'other face up' : 'face up as modelled'))

const turnOver = () => change('Turn over', (now) => ({ is_turned_over: !now.is_turned_over }))
const turn = () => change('Turn by 90°', (now) => ({ turn: (now.turn + 90) % 360 }))
const layLevel = (lean: number) => change('Lay an edge level', (now) => ({ turn: (now.turn - lean + 360) % 360 }))
const pickingSaid = computed(() => {
  if (selection.picking !== 'size') return 'as it is printed · drag a bend’s number to move its note'
  return sizeWay.value === 'round' ? 'click the middle of what is round' : 'click where the size begins, then where it ends'
})
const addSize = (start: Place, end: Place) => markUp('Size on the drawing', (now) => ({ sizes: [...(now.markup.sizes ?? []), { way: wayOf(sizeWay.value, start, end), start: start.place, end: end.place }] }))
const setAnchor = (anchor: number) => change('Anchor panel', { anchor })
useSignal('turn-over', turnOver)
useSignal('turn', turn)
useSignal('measure', () => selection.pick('measure'))

function chooseCorner(at: Point): void {
  const is = (c: number[]) => Math.hypot((c[0] ?? 0) - at[0], (c[1] ?? 0) - at[1]) < 0.5
  change('Corners', (now) => {
    const rule = now.corners[0]
    if (!rule) return undefined
    const chosen = rule.chosen ?? []
    return { corners: [{ ...rule, chosen: chosen.some(is) ? chosen.filter((c) => !is(c)) : [...chosen, at] }] }
  })
}
</script>

<template>
  <main class="work">
    <ProblemNote v-if="error && !blank" :error="error" @again="refetch" />
    <p v-else-if="!line" class="none">The rack is empty. Drop STEP or DXF files onto it to see blanks here.</p>
    <p v-else-if="line.state !== 'ready'" class="none">{{ line.name }} is {{ { reading: 'still being read', asking: 'waiting for an answer', refused: 'refused', ready: '' }[line.state] }}. {{ line.what }}</p>
    <template v-else-if="blank">
      <section v-if="isDrawing" class="flat-side whole">
        <p class="caption"><b>Drawing</b> <span class="quiet">{{ pickingSaid }}</span></p>
        <ProblemNote v-if="drawingError" :error="drawingError" @again="drawAgain" />
        <DrawingSheets v-else-if="sheets" :sheets="sheets" :part="part" :is-round="sizeWay === 'round'" @size="addSize" @move="(bend, by) => markUp(`Note of bend ${bend}`, { moved: { [bend]: { by, leader: sheets?.markup.moved?.[bend]?.leader ?? true } } })" @lay-back="markUp('Note laid back', { moved: { [$event]: null } })" />
        <p v-else class="none">The drawing of {{ line.name }} is being made.</p>
      </section>
      <div v-else class="views">
        <section class="flat-side">
          <p class="caption"><b>Flat</b> <span class="quiet">{{ side }} · seen from the side that lies up</span></p>
          <FlatDrawing :blank="blank" @view="flatView = $event" @anchor="setAnchor" @edge="layLevel" @corner="chooseCorner" @place="cutouts?.place($event)" />
        </section>
        <section class="folded-side">
          <p class="caption"><b>Folded</b> <span class="quiet">anchor panel {{ blank.anchor }}</span></p>
          <FoldedView :part="part" :digest="digest" :blank="blank" @anchor="setAnchor" />
        </section>
      </div>
      <GaugeRule v-if="!isDrawing" :blank="blank" :view="flatView" />
    </template>
  </main>
  <SlipPane :order="order" :title="line?.name ?? 'Blank'" :note="line ? `${counted(line.quantity, 'pc')} · ${line.source}` : ''">
    <div v-if="blank && line" :class="{ 'is-computing': isFetching && !blank }">
      <BlankFacts :blank="blank" />
      <UnfoldFields :blank="blank" :line="line" :is-drawing="isDrawing" @change="change" @turn-over="turnOver" @turn="turn" @drawing="isDrawing = !isDrawing" />
      <template v-if="isDrawing && sheets">
        <ChosenSizes v-model:way="sizeWay" :sheets="sheets" @change="markUp" />
        <DrawingFields :sheets="sheets" @change="markUp" />
      </template>
      <section>
        <h2>Bends <span>{{ blank.bends.length ? 'click one for its sum' : '' }}</span></h2>
        <p v-if="!blank.bends.length" class="quiet">A flat part: nothing to bend.</p>
        <BendRows v-else :blank="blank" />
        <AllowanceSum v-if="chosen" :bend="chosen" :blank="blank" @own="changeBend(chosen.id, $event)" />
      </section>
      <FindingList :findings="blank.findings" />
      <CornerFields :blank="blank" @change="change" />
      <FlatCutouts ref="cutouts" :blank="blank" @change="change" />
      <ChangeList :blank="blank" />
    </div>
  </SlipPane>
</template>

<style scoped>
.work { grid-area: work; display: flex; flex-direction: column; min-height: 0; min-width: 0; background: var(--paper); }
.views { flex: 1; display: grid; grid-template-columns: 61% 39%; min-height: 0; }
.flat-side, .folded-side { position: relative; display: flex; flex-direction: column; min-width: 0; min-height: 0; }
.whole { flex: 1; background: var(--zinc); }
.folded-side { border-left: 1px solid var(--hair); }
.caption { position: absolute; z-index: 1; left: 14px; top: 8px; pointer-events: none; }
.folded-side .caption { left: 14px; }
.none { margin: 14vh auto; max-width: 420px; color: var(--quiet); font-size: 15px; }
</style>
