<script setup lang="ts">
import { computed, ref } from 'vue'

import { client, take } from '@/api/client'
import type { Estimate, Stores } from '@/api/types'
import { length } from '@/lib/length'
import LengthField from '@/shell/LengthField.vue'
import { tell } from '@/shell/tell'
import { useView } from '@/stores/view'

import { useStores } from './useStores'

/** The kerf from measured sizes of parts that were cut by a row of the cut chart. */
const props = defineProps<{ row: Stores['cut_rows'][number] }>()
const view = useView()
const change = useStores()
const sizes = ref([{ nominal: 100, measured: 100, is_hole: false }])
/** What the parts were cut with: the chart's kerf when this was opened, which taking another does not change. */
const cutWith = ref(props.row.kerf)
const found = ref<Estimate | null>(null)
const fine = (value: number) => length(value, view.units, view.isMm ? 3 : 4)
/** What taking it would do to the next parts. */
const effect = computed(() => {
  if (!found.value) return ''
  const more = found.value.value - props.row.kerf
  const [outside, inside] = more > 0 ? ['larger', 'smaller'] : ['smaller', 'larger']
  return `Outsides come out ${fine(Math.abs(more))} ${outside} than now, holes as much ${inside}; programs made with the old kerf become stale.`
})
const at = () => ({ params: { path: { row: props.row.id } }, body: { kerf: cutWith.value, sizes: sizes.value } })

function set(i: number, values: Partial<{ nominal: number; measured: number; is_hole: boolean }>): void {
  sizes.value = sizes.value.map((s, n) => (n === i ? { ...s, ...values } : s))
  found.value = null
}

async function ask(): Promise<void> {
  try {
    found.value = await take<Estimate>(client.POST('/api/stores/cut-rows/{row}/measured', at()))
  } catch (fault) {
    found.value = null
    tell(fault)
  }
}

async function keep(): Promise<void> {
  await change(take(client.PUT('/api/stores/cut-rows/{row}/kerf', at())))
  found.value = null
}
</script>

<template>
  <div class="measured">
    <p class="quiet small">Sizes of parts cut with a kerf of <LengthField :model-value="cutWith" label="Kerf the parts were cut with" :decimals="view.isMm ? 3 : 4" @update:model-value="cutWith = $event; found = null" />: {{ row.process }}, {{ length(row.thickness, view.units) }} {{ view.units }}, {{ row.material === 'every' ? 'every material' : row.material }}. What is larger outside or smaller inside than drawn tells of a narrower cut.</p>
    <table class="rows">
      <thead><tr><th>as drawn, {{ view.units }}</th><th>measured</th><th class="left">of</th><th>kerf</th><th /></tr></thead>
      <tbody>
        <tr v-for="(s, i) in sizes" :key="i" :class="{ warn: found?.odd.includes(i) }">
          <td><LengthField :model-value="s.nominal" :label="`size ${i + 1} as drawn`" @update:model-value="set(i, { nominal: $event })" /></td>
          <td><LengthField :model-value="s.measured" :label="`size ${i + 1} measured`" :decimals="view.isMm ? 3 : 4" @update:model-value="set(i, { measured: $event })" /></td>
          <td class="left"><select :value="s.is_hole ? 'hole' : 'outside'" :aria-label="`Size ${i + 1} is of`" @change="set(i, { is_hole: ($event.target as HTMLSelectElement).value === 'hole' })"><option>outside</option><option>hole</option></select></td>
          <td class="num">{{ found ? fine(found.each[i] ?? 0) : '' }}</td>
          <td><button v-if="sizes.length > 1" type="button" class="bare small" @click="sizes.splice(i, 1); found = null">take out</button></td>
        </tr>
      </tbody>
    </table>
    <p v-if="found?.odd.length" class="warn small">A size lies far from the others: measure it again or take it out.</p>
    <div class="actions">
      <button type="button" @click="sizes.push({ nominal: 100, measured: 100, is_hole: false }); found = null">Another size</button>
      <button type="button" :class="{ main: !found }" @click="ask">Work out the kerf</button>
      <template v-if="found"><b class="num">{{ fine(found.value) }} ± {{ fine(found.spread) }}</b>
        <button type="button" class="main" @click="keep">Take it into the chart</button></template>
    </div>
    <p v-if="effect" class="small">{{ effect }}</p>
  </div>
</template>

<style scoped>
.measured { margin-top: 10px; padding: 8px 10px; background: var(--dye-wash); }
input { width: 88px; padding: 1px 5px; }
.quiet input { width: 62px; }
.actions { display: flex; flex-wrap: wrap; gap: 8px; align-items: baseline; margin-top: 8px; }
select { font: 13px var(--words); border: 1px solid var(--hair); border-radius: 2px; background-color: var(--paper); }
</style>
