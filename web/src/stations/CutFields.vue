<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { computed, reactive, watch } from 'vue'

import { client, take } from '@/api/client'
import { Problem } from '@/api/problem'
import type { Cut } from '@/api/types'
import { length, readLength } from '@/lib/length'
import { tell } from '@/shell/tell'
import { useView } from '@/stores/view'

const props = defineProps<{ cut: Cut; order: number; isOpen: boolean }>()
const queries = useQueryClient()
const view = useView()
const choice = reactive({ process: 'laser' as NonNullable<Cut['choice']['process']>, kerf: '', post: 'plain' as NonNullable<Cut['choice']['post']> })
watch(
  () => JSON.stringify(props.cut.choice),
  () => {
    const known = props.cut.choice
    Object.assign(choice, { process: known.process ?? 'laser', post: known.post ?? 'plain', kerf: known.kerf ? length(known.kerf, view.units) : '' })
  },
  { immediate: true },
)
const rows = computed(() => props.cut.chart.filter((r) => r.process === choice.process))
const mm = (v: number, d?: number) => length(v, view.units, d)

async function plan(): Promise<void> {
  const kerf = choice.kerf.trim() ? readLength(choice.kerf, view.units) : null
  if (choice.kerf.trim() && kerf === null) {
    tell(new Problem({ detail: `The kerf “${choice.kerf}” is no length`, fix: 'Write for example 0.2 or leave it empty' }))
    return
  }
  try {
    await take(client.POST('/api/orders/{order}/cut', { params: { path: { order: props.order } }, body: { process: choice.process, post: choice.post, kerf } }))
  } catch (error) {
    tell(error)
  }
  await queries.invalidateQueries({ predicate: (q) => ['order', 'cut', 'packet'].includes(String(q.queryKey[0])) })
}
</script>

<template>
  <section>
    <div class="field"><span>Process</span>
      <ElSelect v-model="choice.process" aria-label="Process"><ElOption v-for="p in ['laser', 'plasma', 'waterjet']" :key="p" :value="p" :label="p" /></ElSelect></div>
    <div class="field"><span>Kerf</span><input v-model="choice.kerf" class="num" type="text" placeholder="from the chart" aria-label="Kerf" /></div>
    <div class="field"><span>Post</span>
      <ElSelect v-model="choice.post" aria-label="Post"><ElOption value="plain" label="Plain ISO, mm" /><ElOption value="plain-inch" label="Plain ISO, inches" /></ElSelect></div>
    <div class="actions">
      <button type="button" class="main" :disabled="isOpen" @click="plan">{{ cut.run ? 'Plan the paths again' : 'Plan the paths' }}</button>
      <span v-if="isOpen" class="quiet">planning and proving …</span>
    </div>
  </section>
  <section>
    <h2>Cut chart <span>{{ choice.process }}, gauges of this order</span></h2>
    <table class="rows">
      <thead><tr><th>gauge</th><th>kerf</th><th>feed/min</th><th>pierce, s</th><th>lead-in</th></tr></thead>
      <tbody>
        <tr v-for="r in rows" :key="`${r.thickness}-${r.material}`" class="num">
          <td>{{ mm(r.thickness) }}</td><td>{{ mm(r.kerf) }}</td><td>{{ mm(r.feed, 0) }}</td><td>{{ r.pierce_seconds.toFixed(1) }}</td><td>{{ mm(r.lead_in) }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
