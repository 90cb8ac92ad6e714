<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import type { OrderCard, Station } from '@/api/types'
import { day } from '@/lib/length'
import { STATIONS } from '@/router'

const props = defineProps<{ order: OrderCard }>()
const route = useRoute()

function isHere(station: Station): boolean {
  return STATIONS[station.number - 1] === route.params.station
}

const cells = computed(() =>
  props.order.stations.map((station) => ({
    ...station,
    here: isHere(station),
    to: { name: 'station', params: { ...route.params, station: STATIONS[station.number - 1] } },
    stamp: station.initials ? `${station.initials} ${day(station.at)}` : '',
    isStale: station.state === 'stale',
    word: station.note || (station.state === 'in work' ? 'in work' : ''),
  })),
)
</script>

<template>
  <footer class="card" aria-label="Route card">
    <div class="which"><span class="quiet small">Route card</span><b class="num">{{ order.number }}</b></div>
    <RouterLink v-for="cell in cells" :key="cell.number" :to="cell.to" class="cell" :class="{ here: cell.here }" :data-station="cell.number" :data-state="cell.state">
      <span class="no">{{ cell.number }}</span>
      <span class="name">{{ cell.name }}<small :class="{ stale: cell.isStale }">{{ cell.word }}</small></span>
      <span v-if="cell.stamp" class="stamp" :class="{ stale: cell.isStale }">{{ cell.stamp }}</span>
    </RouterLink>
  </footer>
</template>

<style scoped>
.card { grid-area: card; height: 56px; display: grid; grid-template-columns: 110px repeat(6, 1fr); background: var(--paper); border-top: 1px solid var(--ink); }
.which { display: flex; flex-direction: column; padding: 8px 14px; border-right: 1px solid var(--hair); white-space: nowrap; }
.which b { font-size: 13px; font-weight: 600; }
.cell { position: relative; display: flex; gap: 10px; padding: 7px 8px 0 12px; border-right: 1px solid var(--hair); color: var(--ink); text-decoration: none; overflow: hidden; }
.cell:hover { background: var(--dye-wash); }
.no { font: 500 28px/38px var(--narrow); color: var(--quiet); }
.name { min-width: 0; font-weight: 600; font-size: 14.5px; line-height: 20px; }
.name small { display: block; font-weight: 400; font-size: 12px; line-height: 16px; color: var(--quiet); max-width: min(150px, 100%); white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.name small.stale { color: var(--oxide); }
.here { background: var(--dye); color: var(--on-tone); }
.here:hover { background: var(--dye); }
.here .no, .here .name small { color: var(--on-tone-quiet); }
.here .name small.stale { color: var(--on-tone-stale); }
.stamp { position: absolute; right: 8px; top: 7px; padding: 3px 8px; font: 600 14px/18px var(--narrow); letter-spacing: 0.6px; color: var(--up); border: 2px solid var(--up); border-radius: 3px; transform: rotate(-6deg); background: var(--paper); white-space: nowrap; }
.stamp.stale { color: var(--quiet); border-color: var(--quiet); border-width: 1px; opacity: 0.9; font-size: 12px; line-height: 13px; top: 5px; }
.stamp.stale::after { content: ''; position: absolute; left: -4px; right: -4px; top: 50%; border-top: 1.5px solid var(--oxide); transform: rotate(-4deg); }
@media (max-width: 1150px) { .stamp { font-size: 11px; padding: 1px 4px; right: 2px; top: 30px; line-height: 13px; } }
</style>
