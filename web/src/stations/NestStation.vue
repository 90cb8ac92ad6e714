<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, onScopeDispose, ref } from 'vue'

import { nestQuery } from '@/api/queries'
import type { OrderCard, RackLine } from '@/api/types'
import SheetDrawing from '@/drawing/SheetDrawing.vue'
import SheetStrip from '@/drawing/SheetStrip.vue'
import { counted } from '@/lib/counted'
import { gaugeText } from '@/lib/gauges'
import { length, sheetSize } from '@/lib/length'
import ProblemNote from '@/shell/ProblemNote.vue'
import SlipPane from '@/shell/SlipPane.vue'
import { useView } from '@/stores/view'

import ChosenPlacement from './ChosenPlacement.vue'
import NestAlternatives from './NestAlternatives.vue'
import NestFields from './NestFields.vue'
import NestFigures from './NestFigures.vue'
import NestTray from './NestTray.vue'
import RunNote from './RunNote.vue'
import SearchHistory from './SearchHistory.vue'
import { nameOf, useHandwork } from './useHandwork'
import { useRun } from './useRun'

const props = defineProps<{ order: OrderCard; lines: RackLine[]; line?: RackLine | undefined; part: number }>()
const view = useView()
const { data: nest, error, refetch } = useQuery(computed(() => nestQuery(props.order.id)))
const { isOpen, stale, word } = useRun(() => nest.value?.run)
const shown = ref(1)
const hands = useHandwork(() => nest.value, () => props.order.id)
const { picked, locked } = hands
const sheet = computed(() => nest.value?.sheets.find((s) => s.number === shown.value) ?? nest.value?.sheets[0])
const stock = computed(() => nest.value?.stock.find((s) => s.id === sheet.value?.sheet))
const chosen = computed(() => sheet.value?.placements.filter((p) => picked.value.includes(nameOf(p))) ?? [])
const areLocked = computed(() => chosen.value.length > 0 && chosen.value.every((p) => locked.value.includes(nameOf(p))))
const mayMove = computed(() => !isOpen.value && !nest.value?.is_released)
const isStale = computed(() => stale.value.length > 0)

function show(number: number): void {
  shown.value = number
  hands.pick('', false)
}

async function duplicate(): Promise<void> {
  const [like] = chosen.value
  if (like && sheet.value) await hands.lay(like.part, sheet.value, like)
}

/** The keys of the bench: each does what a button in the slip does. */
const acts: Record<string, () => Promise<void>> = {
  'nudge-left': () => hands.move([-step(), 0]),
  'nudge-right': () => hands.move([step(), 0]),
  'nudge-up': () => hands.move([0, step()]),
  'nudge-down': () => hands.move([0, -step()]),
  'turn-back': () => hands.turn(-1),
  'turn-on': () => hands.turn(1),
  mirror: mirrorChosen,
  lock: hands.lock,
  'take-off': hands.takeOff,
}
const step = () => nest.value?.spacing || 1
async function mirrorChosen(): Promise<void> {
  const may = chosen.value.every((c) => nest.value?.parts.find((p) => p.id === c.part)?.may_mirror)
  if (may) await hands.mirror()
}
for (const [name, act] of Object.entries(acts)) {
  const listen = () => {
    if (chosen.value.length && mayMove.value) void act()
  }
  window.addEventListener(`kaigata:${name}`, listen)
  onScopeDispose(() => window.removeEventListener(`kaigata:${name}`, listen))
}
</script>

<template>
  <main class="work">
    <ProblemNote v-if="error && !nest" :error="error" @again="refetch" />
    <template v-else-if="nest">
      <div v-if="!nest.nest" class="empty">
        <template v-if="isOpen"><h1>Searching for the first nest</h1><p class="quiet">It shows here as soon as it is complete; better ones follow.</p></template>
        <template v-else><h1>Nothing is nested yet</h1><p>Choose sheets and rules in the slip, then start the search. The parts of each gauge go onto sheets of the same gauge.</p></template>
        <RunNote :run="nest.run" what="Nesting" />
      </div>
      <template v-else-if="sheet && stock">
        <div class="title" :class="{ 'is-computing': isStale }">
          <p><b>Sheet {{ sheet.number }} of {{ nest.sheets.length }}</b> <span class="quiet">{{ gaugeText(stock.thickness, stock.material) }} · {{ sheetSize(stock.width, stock.height, view.units) }} · work zero lower left</span></p>
          <p class="share"><b>{{ (nest.utilisation * 100).toFixed(1) }} %</b> <span class="quiet">of the metal used, all sheets · this sheet {{ (sheet.utilisation * 100).toFixed(1) }} %, used length {{ length(sheet.used_length, view.units, view.isMm ? 1 : 2) }}, {{ counted(sheet.placements.length, 'part') }}</span></p>
        </div>
        <RunNote :run="nest.run" what="Nesting" />
        <div class="draw"><SheetDrawing :nest="nest" :sheet="sheet" :picked="picked" :locked="locked" :may-move="mayMove" :is-stale="isStale" @pick="hands.pick" @move="hands.move" /></div>
        <SheetStrip :nest="nest" :shown="sheet.number" @show="show" />
        <SearchHistory :history="nest.history" :seconds="nest.rules.seconds ?? 20" :word="word" :is-open="isOpen" />
      </template>
    </template>
  </main>
  <SlipPane :order="order" title="Nest" :note="nest?.nest ? counted(nest.sheets.length, 'sheet') : ''">
    <template v-if="nest">
      <ChosenPlacement
        v-if="chosen.length && sheet" :nest="nest" :chosen="chosen" :are-locked="areLocked" :number="sheet.number" :may-move="mayMove"
        @turn="hands.turn" @turn-to="hands.turnTo" @mirror="mirrorChosen" @lock="hands.lock" @duplicate="duplicate" @take-off="hands.takeOff" @to-sheet="hands.toSheet"
      />
      <NestTray v-if="sheet" :nest="nest" :may-move="mayMove" :sheet="sheet.number" @lay="sheet && hands.lay($event, sheet)" />
      <NestFields :nest="nest" :order="order.id" :is-open="isOpen" />
      <NestAlternatives :nest="nest" :order="order.id" />
      <NestFigures v-if="nest.nest" :nest="nest" :order="order.id" :is-open="isOpen" :class="{ 'is-computing': isStale }" />
    </template>
  </SlipPane>
</template>

<style scoped>
.work { grid-area: work; display: flex; flex-direction: column; min-height: 0; min-width: 0; background: var(--paper); }
.title { padding: 8px 14px 2px; }
.share b { font: 600 24px/30px var(--figures); margin-right: 8px; }
.draw { flex: 1; min-height: 0; }
.empty { max-width: 460px; margin: 14vh auto 0; }
</style>
