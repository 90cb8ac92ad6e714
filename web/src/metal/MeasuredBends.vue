<script setup lang="ts">
import { computed, ref } from 'vue'

import { client, take } from '@/api/client'
import type { BendsMeasured, Gauge } from '@/api/types'
import { length } from '@/lib/length'
import LengthField from '@/shell/LengthField.vue'
import NumberField from '@/shell/NumberField.vue'
import { tell } from '@/shell/tell'
import { useView } from '@/stores/view'

/** K from bent coupons of a gauge: each its length cut flat, and its legs measured over the outside. */
const props = defineProps<{ gauge: Gauge }>()
const emit = defineEmits<{ take: [points: BendsMeasured['points']] }>()
const view = useView()
const fresh = () => ({ flat: 100, first: 50, second: 50, angle: 90, radius: props.gauge.thickness })
const bends = ref([fresh()])
const found = ref<BendsMeasured | null>(null)
const COLUMNS = ['flat', 'first', 'second', 'radius'] as const
const first = computed(() => bends.value[0] ?? fresh())

function set(i: number, column: 'flat' | 'first' | 'second' | 'radius' | 'angle', value: number): void {
  bends.value = bends.value.map((b, at) => (at === i ? { ...b, [column]: value } : b))
  found.value = null
}

async function ask(): Promise<void> {
  try {
    found.value = await take<BendsMeasured>(
      client.POST('/api/stores/gauges/{gauge}/measured', { params: { path: { gauge: props.gauge.id } }, body: { bends: bends.value } }),
    )
  } catch (fault) {
    found.value = null
    tell(fault)
  }
}
const size = (of: readonly number[]) => of.map((v) => length(v, view.units)).join(' × ')
</script>

<template>
  <div class="measured">
    <p class="quiet small">Cut strips of a known length, bend each once, measure both legs over the outside.</p>
    <table class="rows">
      <thead><tr><th>cut flat, {{ view.units }}</th><th>leg</th><th>leg</th><th>inside R</th><th>turn, °</th><th>K</th><th /></tr></thead>
      <tbody>
        <tr v-for="(b, i) in bends" :key="i" :class="{ warn: found?.k.odd.includes(i) }">
          <td v-for="c in COLUMNS" :key="c"><LengthField :model-value="b[c]" :label="`${c} of coupon ${i + 1}`" @update:model-value="set(i, c, $event)" /></td>
          <td><NumberField :model-value="b.angle" :min="1" :max="180" :label="`turn of coupon ${i + 1}`" @update:model-value="set(i, 'angle', $event)" /></td>
          <td class="num">{{ found?.k.each[i]?.toFixed(3) ?? '' }}</td>
          <td><button v-if="bends.length > 1" type="button" class="bare small" @click="bends.splice(i, 1); found = null">take out</button></td>
        </tr>
      </tbody>
    </table>
    <p v-if="found?.k.odd.length" class="warn small">A coupon lies far from the others: measure it again or take it out.</p>
    <div class="actions">
      <button type="button" @click="bends.push({ ...first })">Another coupon</button>
      <button type="button" :class="{ main: !found }" @click="ask">Work out K</button>
      <template v-if="found"><b class="num">K {{ found.k.value.toFixed(3) }} ± {{ found.k.spread.toFixed(3) }}</b>
        <button type="button" class="main" @click="emit('take', found.points)">Put it into the chart</button></template>
    </div>
    <p v-if="found?.changed.length" class="quiet small change">Parts unfolded with the chart, taken anew, would become:</p>
    <p v-for="c in found?.changed ?? []" :key="`${c.order} ${c.name}`" class="small">{{ c.order }} {{ c.name }}: <span class="num">{{ size(c.before) }} → {{ size(c.after) }}</span></p>
  </div>
</template>

<style scoped>
.change { margin-top: 6px; }
.measured { margin-top: 10px; padding-top: 8px; border-top: 1px solid var(--hair); }
input { width: 66px; padding: 1px 5px; }
.actions { display: flex; flex-wrap: wrap; gap: 8px; align-items: baseline; margin-top: 8px; }
</style>
