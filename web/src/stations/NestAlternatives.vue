<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'

import { client, take } from '@/api/client'
import type { Nest } from '@/api/types'
import { area, AREA_UNIT } from '@/lib/amounts'
import { length } from '@/lib/length'
import { useUndo } from '@/stores/undo'
import { useView } from '@/stores/view'

const props = defineProps<{ nest: Nest; order: number }>()
const queries = useQueryClient()
const view = useView()
const undo = useUndo()

async function show(run: number): Promise<void> {
  await take(client.PATCH('/api/orders/{order}/nest', { params: { path: { order: props.order } }, body: { run } }))
  await queries.invalidateQueries({ predicate: (q) => ['nest', 'order', 'cut', 'packet'].includes(String(q.queryKey[0])) })
}

async function choose(run: number): Promise<void> {
  const before = props.nest.alternatives.find((a) => a.is_chosen)
  await undo.run({ what: 'choose a nest', make: () => show(run), unmake: () => show(before?.run ?? run) })
}
</script>

<template>
  <section v-if="nest.alternatives.length > 1">
    <h2>Alternatives <span>newest first</span></h2>
    <table class="alternatives">
      <thead><tr><th /><th class="num">%</th><th class="num">sheets</th><th class="num">left out</th><th class="num">spacing</th><th class="num">{{ AREA_UNIT[view.units] }}</th><th class="num">cost</th></tr></thead>
      <tbody>
        <tr v-for="a in nest.alternatives" :key="a.run" :class="{ chosen: a.is_chosen }">
          <td><input type="radio" name="alternative" :checked="a.is_chosen" :aria-label="`Choose nest ${a.run}`" @change="choose(a.run)" /></td>
          <td class="num">{{ (a.utilisation * 100).toFixed(1) }}</td><td class="num">{{ a.sheets }}</td><td class="num">{{ a.left_out }}</td>
          <td class="num">{{ length(a.spacing, view.units, view.isMm ? 1 : 3) }}</td><td class="num">{{ area(a.counted_area, view.units).toFixed(view.isMm ? 3 : 2) }}</td><td class="num">{{ a.cost?.toFixed(0) ?? '–' }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.alternatives { width: 100%; border-collapse: collapse; }
th { font: 500 12px var(--words); color: var(--quiet); white-space: nowrap; }
th.num, td.num { padding-left: 8px; text-align: right; }
td { border-top: 1px solid var(--hair); line-height: 24px; }
.chosen td { color: var(--dye); }
</style>
