<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { client, take } from '@/api/client'
import { cutQuery, nestQuery } from '@/api/queries'
import type { Cut, OrderCard, RackLine } from '@/api/types'
import SheetDrawing from '@/drawing/SheetDrawing.vue'
import SheetStrip from '@/drawing/SheetStrip.vue'
import { counted } from '@/lib/counted'
import { gaugeText } from '@/lib/gauges'
import { duration, length, longLength, sheetSize } from '@/lib/length'
import type { Process } from '@/lib/processes'
import ProblemNote from '@/shell/ProblemNote.vue'
import SlipPane from '@/shell/SlipPane.vue'
import { tell } from '@/shell/tell'
import { useSelection } from '@/stores/selection'
import { useView } from '@/stores/view'

import ChartRows from './ChartRows.vue'
import ContourByHand from './ContourByHand.vue'
import CutFields from './CutFields.vue'
import FindingList from './FindingList.vue'
import PlayBar from './PlayBar.vue'
import ProcessTable from './ProcessTable.vue'
import RunNote from './RunNote.vue'
import { usePathByHand } from './usePathByHand'
import { usePlayback } from './usePlayback'
import { useRun } from './useRun'

const props = defineProps<{ order: OrderCard; lines: RackLine[]; line?: RackLine | undefined; part: number }>()
const view = useView()
const { data: cut, error, refetch } = useQuery(computed(() => cutQuery(props.order.id)))
const { data: nest } = useQuery(computed(() => nestQuery(props.order.id)))
const { isOpen, stale, word } = useRun(() => cut.value?.run)
const shown = ref(1)
const isStale = computed(() => stale.value.length > 0 || isOpen.value)
const isOfThisNest = computed(() => !!cut.value?.nest && cut.value.nest === nest.value?.nest)
const sheet = computed(() => nest.value?.sheets.find((s) => s.number === shown.value) ?? nest.value?.sheets[0])
const stock = computed(() => nest.value?.stock.find((s) => s.id === sheet.value?.sheet))
const program = computed(() => (isOfThisNest.value ? cut.value?.programs.find((p) => p.number === sheet.value?.number) : undefined))
const { at, isPlaying, speed, times, played, play, step, close } = usePlayback(program)
const queries = useQueryClient()
const selection = useSelection()
const hand = usePathByHand(() => cut.value, () => program.value, () => props.order.id)
const { looked, run: lookedRun, place, places, contours, isPierceKept, isOrderKept } = hand
const spot = computed(() => {
  const finding = selection.finding === null ? undefined : cut.value?.findings[selection.finding]
  return finding && finding.sheet === sheet.value?.number ? finding.at : null
})
watch(
  () => (selection.finding === null ? undefined : cut.value?.findings[selection.finding]?.sheet),
  (number) => number && (shown.value = number),
)
const held = computed(() => new Set((figures.value?.joints ?? []).map((j) => `${String(j.part)} ${String(j.copy)}`)))

async function ask(call: Promise<Cut>): Promise<void> {
  try {
    queries.setQueryData(['cut', props.order.id], await call)
  } catch (fault) {
    tell(fault)
  }
  await queries.invalidateQueries({ predicate: (q) => ['order', 'packet'].includes(String(q.queryKey[0])) })
}
const atOrder = computed(() => ({ params: { path: { order: props.order.id } } }))
const compare = () => ask(take<Cut>(client.POST('/api/orders/{order}/cut/compare', atOrder.value)))
const choose = (process: string) =>
  cut.value && ask(take<Cut>(client.PATCH('/api/orders/{order}/cut', { ...atOrder.value, body: { ...cut.value.choice, process: process as Process } })))
const figures = computed(() => (isOfThisNest.value ? cut.value?.sheets.find((s) => s.number === sheet.value?.number) : undefined))
</script>

<template>
  <main class="work" :data-run="cut?.run ? `${cut.run.id} ${cut.run.state}` : ''">
    <ProblemNote v-if="error && !cut" :error="error" @again="refetch" />
    <template v-else-if="cut && nest">
      <div v-if="!nest.nest || !sheet" class="empty"><h1>There is no nest to cut</h1><p>Nest the order first; its sheets are cut here.</p><RouterLink class="button-link" :to="`/orders/${order.id}/nest`">Go to the nest</RouterLink></div>
      <template v-else>
        <div class="title" :class="{ 'is-computing': isStale }">
          <p><b>Sheet {{ sheet.number }} of {{ nest.sheets.length }}</b> <span v-if="stock" class="quiet">{{ gaugeText(stock.thickness, stock.material) }} · {{ sheetSize(stock.width, stock.height, view.units) }} · red: pierce and lead-in, dotted: rapid<template v-if="figures?.mark_length">, violet: marked</template></span></p>
          <p v-if="figures" class="share"><b>{{ duration(figures.seconds) }}</b> <span class="quiet">{{ counted(figures.pierces, 'pierce') }} · cut {{ longLength(figures.cut_length, view.units) }} · leads {{ longLength(figures.lead_length, view.units) }} · rapid {{ longLength(figures.rapid_length, view.units) }} {{ view.units }} · kerf {{ length(figures.kerf, view.units) }}</span></p>
          <p v-else class="share"><span class="quiet">{{ isOpen ? 'The paths are being planned and proved.' : 'No paths yet for this nest. Choose how to cut in the slip, then plan the paths.' }}</span></p>
        </div>
        <RunNote :run="cut.run" what="Cutting" />
        <div class="draw"><SheetDrawing :nest="nest" :sheet="sheet" :program="program" :kerf="figures?.kerf" :played="played" :is-stale="isStale" :held="held" :looked="looked" :spot="spot" @look="hand.look" @pierce="hand.movePierce" /></div>
        <PlayBar v-if="program" v-model:at="at" v-model:speed="speed" :total="times.total" :is-playing="isPlaying" :passes="program.passes.length" :shown="played ? played.pass : program.passes.length" @play="play" @step="step" @close="close" />
        <SheetStrip :nest="nest" :shown="sheet.number" @show="shown = $event" />
      </template>
    </template>
  </main>
  <SlipPane :order="order" title="Cut" :note="cut?.run ? word : ''">
    <template v-if="cut">
      <CutFields :cut="cut" :order="order.id" :is-open="isOpen" />
      <section v-if="figures && program" :class="{ 'is-computing': isStale }">
        <h2>Sheet {{ figures.number }} <span>proved to {{ figures.proof.largest_deviation.toFixed(4) }} mm</span></h2>
        <dl class="facts">
          <dt>Cut length</dt><dd class="num">{{ longLength(figures.cut_length, view.units) }}</dd><dd class="unit">{{ view.units }}</dd>
          <dt>Rapid length</dt><dd class="num">{{ longLength(figures.rapid_length, view.units) }}</dd><dd class="unit">{{ view.units }}</dd>
          <dt>Contours</dt><dd class="num">{{ figures.contours }}</dd><dd />
          <dt>Pierces</dt><dd class="num">{{ figures.pierces }}</dd><dd />
          <dt>Time</dt><dd class="num">{{ duration(figures.seconds) }}</dd><dd />
          <dt>Machine cost</dt><dd class="num">{{ (figures.cost ?? 0).toFixed(2) }}</dd><dd />
        </dl>
        <div class="actions">
          <a class="button" :href="`/api/programs/${program.id}/files/nc`" download>G-code</a>
          <a class="button" :href="`/api/programs/${program.id}/files/dxf`" download>Path DXF</a>
        </div>
      </section>
      <ContourByHand v-if="program" :run="lookedRun" :place="place" :places="places" :count="contours.length" :is-pierce-kept="isPierceKept" :is-order-kept="isOrderKept" :is-open="isOpen" @to="hand.moveTo" @pierce="hand.keepPierce" @order="hand.keepOrder" />
      <FindingList :findings="cut.findings" />
      <ProcessTable v-if="isOfThisNest" :processes="cut.processes" :is-open="isOpen" @compare="compare" @choose="choose" />
      <ChartRows :cut="cut" />
    </template>
  </SlipPane>
</template>

<style scoped>
.work { grid-area: work; display: flex; flex-direction: column; min-height: 0; min-width: 0; background: var(--paper); }
.title { padding: 8px 14px 2px; }
.share b { font: 600 22px/28px var(--figures); margin-right: 8px; }
.draw { flex: 1; min-height: 0; }
.empty { max-width: 460px; margin: 14vh auto 0; }
</style>
