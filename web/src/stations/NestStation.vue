<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { nestQuery } from '@/api/queries'
import type { OrderCard, RackLine } from '@/api/types'
import SheetDrawing from '@/drawing/SheetDrawing.vue'
import SheetStrip from '@/drawing/SheetStrip.vue'
import { length } from '@/lib/length'
import ProblemNote from '@/shell/ProblemNote.vue'
import SlipPane from '@/shell/SlipPane.vue'
import { useView } from '@/stores/view'

import ChosenPlacement from './ChosenPlacement.vue'
import NestFields from './NestFields.vue'
import NestFigures from './NestFigures.vue'
import RunNote from './RunNote.vue'
import SearchHistory from './SearchHistory.vue'
import { useRun } from './useRun'

const props = defineProps<{ order: OrderCard; lines: RackLine[]; line?: RackLine | undefined; part: number }>()
const view = useView()
const { data: nest, error, refetch } = useQuery(computed(() => nestQuery(props.order.id)))
const { isOpen, stale, word } = useRun(() => nest.value?.run)
const shown = ref(1)
const chosen = ref('')
const sheet = computed(() => nest.value?.sheets.find((s) => s.number === shown.value) ?? nest.value?.sheets[0])
const stock = computed(() => nest.value?.stock.find((s) => s.id === sheet.value?.sheet))
const placement = computed(() => sheet.value?.placements.find((p) => `${p.part} ${p.copy}` === chosen.value))
const isStale = computed(() => stale.value.length > 0)
const mm = (v: number, d = 0) => length(v, view.units, view.isMm ? d : 2)
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
          <p><b>Sheet {{ sheet.number }} of {{ nest.sheets.length }}</b> <span class="quiet">{{ stock.thickness?.toFixed(1) }} {{ stock.material }} · {{ mm(stock.width) }} × {{ mm(stock.height) }} · work zero lower left</span></p>
          <p class="share"><b>{{ (nest.utilisation * 100).toFixed(1) }} %</b> <span class="quiet">of the metal used, all sheets · this sheet {{ (sheet.utilisation * 100).toFixed(1) }} %, used length {{ mm(sheet.used_length, 1) }}, {{ sheet.placements.length }} parts</span></p>
        </div>
        <RunNote :run="nest.run" what="Nesting" />
        <div class="draw"><SheetDrawing :nest="nest" :sheet="sheet" :chosen="chosen" :is-stale="isStale" @choose="chosen = $event" /></div>
        <SheetStrip :nest="nest" :shown="sheet.number" @show="shown = $event" />
        <SearchHistory :history="nest.history" :seconds="nest.rules.seconds ?? 20" :word="word" :is-open="isOpen" />
      </template>
    </template>
  </main>
  <SlipPane :order="order" title="Nest" :note="nest?.nest ? `${nest.sheets.length} sheets` : ''">
    <template v-if="nest">
      <NestFields :nest="nest" :order="order.id" :is-open="isOpen" />
      <ChosenPlacement v-if="placement" :placement="placement" />
      <NestFigures v-if="nest.nest" :nest="nest" :class="{ 'is-computing': isStale }" />
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
