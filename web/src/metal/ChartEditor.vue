<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { client, take } from '@/api/client'
import type { Gauge } from '@/api/types'
import { counted } from '@/lib/counted'
import LengthField from '@/shell/LengthField.vue'
import NumberField from '@/shell/NumberField.vue'
import { useView } from '@/stores/view'

import MeasuredBends from './MeasuredBends.vue'
import { columnsOf, METHODS, methodTitle, type Method, type Point } from './methods'
import { useStores } from './useStores'

/** The bend chart of one gauge: its method and rows, each with where it comes from. */
const props = defineProps<{ gauge: Gauge; title: string }>()
const change = useStores()
const method = ref<Method>(props.gauge.method)
const points = ref<Point[]>([])
const stated = (of: { method: Method; points: readonly Point[] }) => JSON.stringify([of.method, of.points])
/** What was sent to be kept: when it comes back as it went, what was typed since stays. */
let sent = ''
reset()
watch(
  () => stated(props.gauge),
  (now) => {
    if (now !== sent) reset()
    sent = ''
  },
)
const columns = computed(() => columnsOf(method.value))
const view = useView()
const heads = computed(() => ({ angle: 'turn, °', radius: `R, ${view.units}`, ratio: 'R/T', value: { k: 'K', 'k-by-ratio': 'K', 'din-6935': '', allowance: `allowance, ${view.units}`, deduction: `deduction, ${view.units}` }[method.value] }))
const isChanged = computed(() => stated({ method: method.value, points: points.value }) !== stated(props.gauge))
const ORIGINS = ['standard', 'supplier', 'measured', 'typed'] as const

function reset(): void {
  method.value = props.gauge.method
  points.value = props.gauge.points.map((p) => ({ ...p }))
}

function setMethod(next: Method): void {
  const tables = ['allowance', 'deduction']
  if (tables.includes(next) !== tables.includes(method.value) || next === 'din-6935') points.value = []
  method.value = next
  if (!points.value.length && next !== 'din-6935') points.value = [blankPoint()]
}

function blankPoint(): Point {
  const is = isTable.value
  return { value: is ? 0 : 0.44, ratio: 1, angle: is ? 90 : 0, radius: is ? props.gauge.thickness : 0, origin: 'typed' }
}

const isTable = computed(() => method.value === 'allowance' || method.value === 'deduction')
const isLength = (column: string) => column === 'radius' || (column === 'value' && isTable.value)

function set(point: Point, column: 'angle' | 'radius' | 'ratio' | 'value', value: number): void {
  point[column] = value
  point.origin = 'typed'
}

const isMeasuring = ref(false)

/** Put measured rows into the chart; they are kept like anything typed. */
function takeMeasured(measured: readonly Point[]): void {
  const isOne = method.value === 'k' || method.value === 'din-6935'
  if (isOne) method.value = 'k'
  points.value = [...(isOne ? [] : points.value), ...measured]
}

async function keep(): Promise<void> {
  const body = { method: method.value, points: points.value }
  sent = stated(body)
  await change(take(client.PATCH('/api/stores/gauges/{gauge}', { params: { path: { gauge: props.gauge.id } }, body })))
}
</script>

<template>
  <div class="chart">
    <h2>Bend chart of {{ title }} <span v-if="gauge.parts">{{ counted(gauge.parts, 'part was', 'parts were') }} unfolded with it</span></h2>
    <p class="pick"><button v-for="m in METHODS" :key="m" type="button" :class="{ main: m === method }" @click="setMethod(m)">{{ methodTitle(m) }}</button></p>
    <p v-if="method === 'din-6935'" class="quiet">K follows from radius and thickness: half of 0.65 + ½ log₁₀(R/T), at most 0.5.</p>
    <table v-else class="rows">
      <thead><tr><th v-for="c in columns" :key="c">{{ heads[c] }}</th><th class="left">origin</th><th /></tr></thead>
      <tbody>
        <tr v-for="(p, i) in points" :key="i">
          <td v-for="c in columns" :key="c">
            <LengthField v-if="isLength(c)" :model-value="p[c] ?? 0" :label="`${c} of row ${i + 1}`" :decimals="view.isMm ? 3 : 4" @update:model-value="set(p, c, $event)" />
            <NumberField v-else :model-value="p[c] ?? 0" :label="`${c} of row ${i + 1}`" @update:model-value="set(p, c, $event)" />
          </td>
          <td class="left"><select v-model="p.origin" :aria-label="`Origin of row ${i + 1}`"><option v-for="o in ORIGINS" :key="o" :value="o">{{ o }}</option></select></td>
          <td><button v-if="points.length > 1" type="button" class="bare small" @click="points.splice(i, 1)">take out</button></td>
        </tr>
      </tbody>
    </table>
    <p v-if="isTable" class="quiet small">Between rows K is interpolated; outside them the K of the nearest row is kept.</p>
    <div class="actions">
      <button v-if="method !== 'din-6935' && method !== 'k'" type="button" @click="points.push({ ...(points.at(-1) ?? blankPoint()), origin: 'typed' })">Add a row</button>
      <button type="button" class="main" :disabled="!isChanged" @click="keep">Keep this chart</button>
      <button v-if="isChanged" type="button" class="bare" @click="reset">as it was</button>
      <button type="button" class="bare" :aria-expanded="isMeasuring" @click="isMeasuring = !isMeasuring">from measured bends …</button>
    </div>
    <MeasuredBends v-if="isMeasuring" :gauge="gauge" @take="takeMeasured" />
  </div>
</template>

<style scoped>
.chart { margin-top: 12px; padding: 8px 10px; background: var(--dye-wash); }
.pick { display: flex; flex-wrap: wrap; gap: 4px; margin: 5px 0; }
input { width: 78px; padding: 1px 5px; }
select { font: 13px var(--words); border: 1px solid var(--hair); border-radius: 2px; background-color: var(--paper); }
.actions { display: flex; flex-wrap: wrap; gap: 8px; align-items: baseline; margin-top: 8px; }
</style>
