<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, watch } from 'vue'
import { useRoute } from 'vue-router'

import { orderQuery, rackQuery } from '@/api/queries'
import type { StationWord } from '@/router'
import HeadBar from '@/shell/HeadBar.vue'
import KeysHelp from '@/shell/KeysHelp.vue'
import ProblemNote from '@/shell/ProblemNote.vue'
import RackPane from '@/shell/RackPane.vue'
import RouteCard from '@/shell/RouteCard.vue'
import { useSelection } from '@/stores/selection'
import { useView } from '@/stores/view'

const STATION = {
  part: defineAsyncComponent(() => import('@/stations/PartStation.vue')),
  blank: defineAsyncComponent(() => import('@/stations/BlankStation.vue')),
  bends: defineAsyncComponent(() => import('@/stations/BendsStation.vue')),
  nest: defineAsyncComponent(() => import('@/stations/NestStation.vue')),
  cut: defineAsyncComponent(() => import('@/stations/CutStation.vue')),
  packet: defineAsyncComponent(() => import('@/stations/PacketStation.vue')),
}

const route = useRoute()
const view = useView()
const selection = useSelection()
const order = computed(() => Number(route.params.order))
const { data: card, error, failureReason, refetch } = useQuery(computed(() => orderQuery(order.value)))
const { data: rack } = useQuery(computed(() => rackQuery(order.value)))
const lines = computed(() => rack.value?.lines ?? [])
const part = computed(() => Number(route.params.part) || lines.value.find((l) => l.state === 'ready')?.part || lines.value[0]?.part || 0)
/** The last look failed: what is shown is what was known before. */
const isSilent = computed(() => !!card.value && !!failureReason.value)
const line = computed(() => lines.value.find((l) => l.part === part.value))
const station = computed(() => STATION[route.params.station as StationWord])
watch(part, () => selection.clear())
</script>

<template>
  <div class="bench" :class="{ 'no-rack': !view.isRackShown, 'no-slip': !view.isSlipShown }">
    <HeadBar :order="card" />
    <KeysHelp />
    <p v-if="isSilent" class="silent" role="alert">The server does not answer. What you see is what was last known; the page goes on by itself when it is back.</p>
    <ProblemNote v-if="error && !card" class="work" :error="error" @again="refetch" />
    <template v-else-if="card">
      <RackPane v-if="view.isRackShown" :order="order" :lines="lines" :part="part" />
      <component :is="station" v-if="rack" :key="route.params.station as string" :order="card" :lines="lines" :line="line" :part="part" />
      <RouteCard :order="card" />
    </template>
  </div>
</template>

<style scoped>
.bench { display: grid; height: 100%; grid-template: 'head head head' 40px 'silent silent silent' auto 'rack work slip' minmax(0, 1fr) 'card card card' 56px / var(--rack) minmax(0, 1fr) var(--slip); }
.no-rack { --rack: 0px; }
.no-slip { --slip: 0px; }
.work { grid-area: work; }
.silent { grid-area: silent; margin: 0; padding: 3px 16px; background: var(--oxide); color: var(--on-tone); }
@media (max-width: 1150px) { .bench { --rack: 168px; --rack-px: 0.8px; --slip: 310px; } }
</style>
