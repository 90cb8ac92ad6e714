<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { client, take } from '@/api/client'
import type { OrderCard } from '@/api/types'
import { STATIONS, type StationWord } from '@/router'
import { useUndo } from '@/stores/undo'
import { useView } from '@/stores/view'

import LooksOnly from './LooksOnly.vue'
import { tell } from './tell'
import { useMay } from './useMay'

const props = defineProps<{ title: string; note?: string; order: OrderCard }>()
const [route, queries] = [useRoute(), useQueryClient()]
const [undo, view] = [useUndo(), useView()]
const may = useMay()
const station = computed(() => STATIONS.indexOf(route.params.station as StationWord) + 1)
const known = computed(() => props.order.stations[station.value - 1])
const isStamped = computed(() => known.value?.state === 'stamped')
const label = computed(() => (known.value?.initials ? 'Stamp again' : `Stamp ${known.value?.name ?? ''}`))

async function stamp(): Promise<void> {
  const at = { params: { path: { order: props.order.id } } }
  try {
    if (isStamped.value) {
      await take(
        client.DELETE('/api/orders/{order}/stamps', {
          params: { ...at.params, query: { station: station.value } },
        }),
      )
    } else {
      await take(client.POST('/api/orders/{order}/stamps', { ...at, body: { station: station.value } }))
    }
    await queries.invalidateQueries({ queryKey: ['order', props.order.id] })
  } catch (error) {
    tell(error)
  }
}
</script>

<template>
  <aside v-if="view.isSlipShown" class="slip" aria-label="Slip">
    <div class="sheet">
      <h1>{{ title }}<span class="quiet">{{ note }}</span></h1>
      <LooksOnly right="plan" what="parts, blanks, nests and paths" />
      <slot />
    </div>
    <div class="foot">
      <button type="button" class="bare" :disabled="!undo.done.length" :title="undo.last" @click="undo.undo()">Undo<kbd>u</kbd></button>
      <button type="button" class="bare" :disabled="!undo.undone.length" @click="undo.redo()">Redo</button>
      <button type="button" class="stamp" :disabled="!may('plan')" @click="stamp">{{ isStamped ? 'Take the stamp away' : label }}</button>
    </div>
  </aside>
</template>

<style scoped>
.slip { grid-area: slip; display: flex; flex-direction: column; min-height: 0; background: var(--paper); border-left: 1px solid var(--hair); }
.sheet { flex: 1; overflow: auto; padding: 6px 16px 12px; }
h1 { display: flex; justify-content: space-between; align-items: baseline; gap: 8px; padding-bottom: 4px; }
h1 span { font: 400 12.5px var(--narrow); white-space: nowrap; }
.foot { display: flex; align-items: center; gap: 12px; padding: 7px 16px; border-top: 1px solid var(--hair); }
.stamp { margin-left: auto; }
.slip :deep(section) { border-top: 2px solid var(--zinc); margin-top: 8px; padding-top: 7px; }
.slip :deep(section > h2) { display: flex; justify-content: space-between; align-items: baseline; margin-bottom: 4px; }
.slip :deep(section > h2 span) { font: 400 12px var(--words); color: var(--quiet); }
.slip :deep(.facts) { display: grid; grid-template-columns: 1fr auto 26px; gap: 2px 6px; margin: 4px 0; }
.slip :deep(.facts dt) { color: var(--quiet); }
.slip :deep(.facts dd) { margin: 0; text-align: right; }
.slip :deep(.facts .unit) { color: var(--quiet); font-size: 12px; text-align: left; }
.slip :deep(.field) { display: grid; grid-template-columns: 112px 1fr; align-items: center; gap: 8px; margin: 3px 0; }
.slip :deep(.field) > div > input { width: 100%; box-sizing: border-box; }
.slip :deep(.actions) { display: flex; flex-wrap: wrap; gap: 6px; margin-top: 8px; }
.slip :deep(.finding) { border-left: 3px solid var(--quiet); padding: 1px 0 1px 9px; margin: 6px 0; }
.slip :deep(.finding.error) { border-color: var(--oxide); }
.slip :deep(.finding.warning) { border-color: var(--ochre); }
</style>
