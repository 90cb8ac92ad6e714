<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'

import { client, take } from '@/api/client'
import type { Nest } from '@/api/types'
import { mass, MASS_UNIT } from '@/lib/amounts'
import { grouped } from '@/lib/length'
import { useUndo } from '@/stores/undo'
import { useView } from '@/stores/view'

const props = defineProps<{ nest: Nest; order: number; isOpen: boolean }>()
const queries = useQueryClient()
const undo = useUndo()
const view = useView()
const placed = computed(() => props.nest.sheets.reduce((sum, s) => sum + s.placements.length, 0))
const files = computed(() => props.nest.sheets.map((s) => ({ no: s.number, href: `/api/nests/${props.nest.nest}/files/sheet-${s.number}.dxf` })))

async function call(word: 'POST' | 'DELETE'): Promise<void> {
  const at = { params: { path: { nest: props.nest.nest ?? 0 } } }
  await take(word === 'POST' ? client.POST('/api/nests/{nest}/release', at) : client.DELETE('/api/nests/{nest}/release', at))
  await queries.invalidateQueries({ predicate: (q) => ['nest', 'stores'].includes(String(q.queryKey[0])) })
}
const release = () => undo.run({ what: 'release the nest', make: () => call('POST'), unmake: () => call('DELETE') })
const withdraw = () => undo.run({ what: 'withdraw the nest', make: () => call('DELETE'), unmake: () => call('POST') })
</script>

<template>
  <section>
    <h2>Figures <span>of the best answer</span></h2>
    <dl class="facts">
      <dt>Copies placed</dt><dd class="num">{{ placed }}</dd><dd />
      <dt>Sheets used</dt><dd class="num">{{ nest.sheets.length }}</dd><dd />
      <dt>Mass of sheets</dt><dd class="num">{{ nest.mass === null ? '—' : grouped(mass(nest.mass, view.units), 1) }}</dd><dd class="unit">{{ MASS_UNIT[view.units] }}</dd>
      <dt>Cost of sheets</dt><dd class="num">{{ nest.cost === null ? '—' : grouped(nest.cost, 2) }}</dd><dd />
    </dl>
    <div class="actions">
      <button v-if="!nest.is_released" type="button" :disabled="isOpen || nest.faults.length > 0" @click="release">Release</button>
      <button v-else type="button" @click="withdraw">Withdraw</button>
      <span class="quiet small">{{ nest.is_released ? 'Its sheets are off stock; what is left over is in Stores.' : 'Takes its sheets off stock.' }}</span>
    </div>
    <p class="files">DXF of sheet <a v-for="f in files" :key="f.no" class="num" :href="f.href" download>{{ f.no }}</a></p>
    <p><a :href="`/api/nests/${nest.nest}/files/report.html`" download>Report</a> · <a :href="`/api/nests/${nest.nest}/files/parts.csv`" download>Placements as CSV</a> · <a :href="`/api/nests/${nest.nest}/files/nest.json`" download>nest.json</a></p>
  </section>
</template>

<style scoped>
.files { display: flex; flex-wrap: wrap; gap: 4px 10px; margin: 6px 0 2px; }
</style>
