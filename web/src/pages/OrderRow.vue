<script setup lang="ts">
import type { OrderCard } from '@/api/types'
import { counted } from '@/lib/counted'
import { day } from '@/lib/length'
import { STATIONS } from '@/router'

defineProps<{ order: OrderCard }>()
</script>

<template>
  <article class="row">
    <RouterLink class="which" :to="`/orders/${order.id}/part`">
      <b class="num">{{ order.number }}</b>
      <span class="title">{{ order.title }}</span>
      <span class="quiet small">{{ order.customer }}<template v-if="order.yard"> · {{ order.yard }}</template></span>
      <span class="quiet small">{{ counted(order.parts, 'part') }} · {{ counted(order.pieces, 'piece') }}<template v-if="order.due"> · due {{ day(order.due) }}</template></span>
    </RouterLink>
    <RouterLink
      v-for="station in order.stations" :key="station.number" class="station" :class="station.state.replace(' ', '-')"
      :to="`/orders/${order.id}/${STATIONS[station.number - 1]}`"
    >
      <span class="no">{{ station.number }}</span> {{ station.name }}
      <small v-if="station.initials">{{ station.initials }} {{ day(station.at) }}</small>
      <small v-else>{{ station.note || (station.state === 'in work' ? 'in work' : '') }}</small>
    </RouterLink>
  </article>
</template>

<style scoped>
.row { display: grid; grid-template-columns: 260px repeat(6, 1fr); background: var(--paper); border: 1px solid var(--hair); border-left: 4px solid var(--ink); margin-bottom: 10px; }
a { color: inherit; text-decoration: none; }
.which { display: flex; flex-direction: column; padding: 9px 14px; }
.title { font: 600 17px/22px var(--narrow); }
.station { padding: 9px 12px; border-left: 1px solid var(--hair); font-weight: 600; }
.station:hover, .which:hover { background: var(--dye-wash); }
.no { font: 500 20px/22px var(--narrow); color: var(--quiet); margin-right: 4px; }
small { display: block; font-weight: 400; color: var(--quiet); margin-top: 4px; }
.stamped small { color: var(--up); font-weight: 600; }
.stale small { color: var(--oxide); text-decoration: line-through; }
</style>
