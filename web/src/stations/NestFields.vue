<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, watch } from 'vue'

import { client, take } from '@/api/client'
import type { Nest, NestRules } from '@/api/types'
import { counted } from '@/lib/counted'
import { gaugeText } from '@/lib/gauges'
import { sheetSize } from '@/lib/length'
import LengthField from '@/shell/LengthField.vue'
import NumberField from '@/shell/NumberField.vue'
import ProgressBar from '@/shell/ProgressBar.vue'
import { tell } from '@/shell/tell'
import { useView } from '@/stores/view'

const props = defineProps<{ nest: Nest; order: number; isOpen: boolean }>()
const queries = useQueryClient()
const view = useView()
const TURNS = [0, 90, 180, 270] as const
const rules = reactive({ spacing: 6, margin: 12, seconds: 20, any_turn: false, turns: [...TURNS] as NonNullable<NestRules['turns']>, sheets: [] as number[] })

watch(
  () => JSON.stringify([props.nest.rules, props.nest.choices.map((c) => c.id)]),
  () => {
    const known = props.nest.rules
    Object.assign(rules, {
      spacing: known.spacing ?? 6,
      margin: known.margin ?? 12,
      seconds: known.seconds ?? 20,
      any_turn: known.any_turn ?? false,
      turns: [...(known.turns ?? TURNS)],
      sheets: known.sheets ? [...known.sheets] : props.nest.choices.map((c) => c.id),
    })
  },
  { immediate: true },
)
const gauges = computed(() => [...new Set(props.nest.choices.map((c) => gaugeText(c.thickness, c.material)))])
const sheetsOf = (gauge: string) => props.nest.choices.filter((c) => gaugeText(c.thickness, c.material) === gauge)
const canStart = computed(() => rules.turns.length > 0 && rules.sheets.length > 0)

async function start(): Promise<void> {
  const at = { params: { path: { order: props.order } } }
  try {
    await take(client.POST('/api/orders/{order}/nest', { ...at, body: { ...rules } }))
  } catch (error) {
    tell(error)
  }
  await queries.invalidateQueries({ predicate: (q) => ['nest', 'order', 'cut', 'packet'].includes(String(q.queryKey[0])) })
}

async function goOn(): Promise<void> {
  try {
    await take(client.POST('/api/orders/{order}/nest/go-on', { params: { path: { order: props.order } }, body: { seconds: rules.seconds } }))
  } catch (error) {
    tell(error)
  }
  await queries.invalidateQueries({ predicate: (q) => ['nest', 'order', 'cut', 'packet'].includes(String(q.queryKey[0])) })
}

async function stop(): Promise<void> {
  try {
    await take(client.POST('/api/orders/{order}/nest/stop', { params: { path: { order: props.order } } }))
  } catch (error) {
    tell(error)
  }
  await queries.invalidateQueries({ queryKey: ['nest', props.order] })
}
</script>

<template>
  <section>
    <h2>Sheets to use <span>in stock</span></h2>
    <p v-if="!gauges.length" class="quiet">No stock sheet is of the parts' gauges. Add some in Stores, or give the parts a material.</p>
    <div v-for="gauge in gauges" :key="gauge" class="gauge">
      <p class="quiet small">{{ gauge }}</p>
      <label v-for="s in sheetsOf(gauge)" :key="s.id">
        <input v-model="rules.sheets" type="checkbox" :value="s.id" />
        <span>{{ s.is_remnant ? `remnant ${s.name}, ` : '' }}<span class="num">{{ sheetSize(s.width, s.height, view.units) }}</span></span><span class="num">{{ s.count }}</span>
      </label>
    </div>
  </section>
  <section>
    <h2>Rules <span>{{ view.units }}, °, s</span></h2>
    <div class="field"><span>Spacing</span><LengthField v-model="rules.spacing" label="Spacing" /></div>
    <div class="field"><span>Margin</span><LengthField v-model="rules.margin" label="Margin" /></div>
    <div class="field"><span>Turns</span><span class="turns"><label v-for="t in TURNS" :key="t"><input v-model="rules.turns" type="checkbox" :value="t" :disabled="rules.any_turn" /><span class="num">{{ t }}</span></label><label><input v-model="rules.any_turn" type="checkbox" />any</label></span></div>
    <div class="field"><span>Search for</span><NumberField v-model="rules.seconds" :min="1" :max="3600" label="Seconds to search" /></div>
    <div class="actions">
      <button type="button" class="main" :disabled="!canStart || isOpen" @click="start">{{ nest.nest ? 'Nest again' : 'Start nesting' }}</button>
      <button v-if="isOpen || !nest.nest" type="button" :disabled="!isOpen" @click="stop">Stop</button>
      <button v-else type="button" :disabled="nest.is_released || nest.faults.length > 0" @click="goOn">{{ nest.unplaced.length ? 'Fill the rest' : 'Go on' }}</button>
      <ProgressBar v-if="isOpen" :share="nest.run?.progress ?? 0" label="How far the search is" />
    </div>
  </section>
  <p v-if="nest.locked.length" class="quiet small hint">{{ counted(nest.locked.length, 'locked part stays', 'locked parts stay') }} in place when the search goes on.</p>
</template>

<style scoped>
.gauge label { display: grid; grid-template-columns: 20px 1fr auto; align-items: center; line-height: 22px; }
.turns { display: flex; flex-wrap: wrap; gap: 2px 7px; }
.turns label { display: flex; align-items: center; gap: 4px; }
.hint { margin: 0 14px 6px; }
</style>
