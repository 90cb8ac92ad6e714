<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { reactive, ref, watch } from 'vue'

import { client, take } from '@/api/client'
import type { Cut } from '@/api/types'
import { PROCESSES } from '@/lib/processes'
import LengthField from '@/shell/LengthField.vue'
import ProgressBar from '@/shell/ProgressBar.vue'
import { tell } from '@/shell/tell'
import { useView } from '@/stores/view'

const props = defineProps<{ cut: Cut; order: number; isOpen: boolean }>()
const queries = useQueryClient()
const view = useView()
type Choice = Required<Cut['choice']>
const MARKS = { blank: 'as each blank says', none: 'not at all', whole: 'whole lines', ticks: 'ends only' } as const
const choice = reactive({
  process: 'laser' as Choice['process'], kerf: null as number | null, post: 'plain', order: 'short' as Choice['order'], round_freed: false, common_cut: false,
  marking: { bends: 'blank' as keyof typeof MARKS, directions: false, numbers: false }, skeleton: 0, cut_off: false,
})
const isMore = ref(false)
watch(
  () => JSON.stringify(props.cut.choice),
  () => {
    const known = props.cut.choice
    Object.assign(choice, { ...known, marking: { ...choice.marking, ...known.marking } })
    isMore.value ||= known.order === 'heat' || !!(known.round_freed || known.common_cut || known.skeleton || known.cut_off || known.marking?.numbers || known.marking?.directions)
  },
  { immediate: true },
)

async function plan(): Promise<void> {
  try {
    await take(client.POST('/api/orders/{order}/cut', { params: { path: { order: props.order } }, body: choice }))
  } catch (error) {
    tell(error)
  }
  await queries.invalidateQueries({ predicate: (q) => ['order', 'cut', 'packet'].includes(String(q.queryKey[0])) })
}
</script>

<template>
  <section>
    <div class="field"><span>Process</span>
      <ElSelect v-model="choice.process" aria-label="Process"><ElOption v-for="p in PROCESSES" :key="p" :value="p" :label="p" /></ElSelect></div>
    <div class="field"><span>Kerf</span><LengthField v-model="choice.kerf" label="Kerf" :decimals="view.isMm ? 3 : 4" placeholder="from the chart" /></div>
    <div class="field"><span>Post</span>
      <ElSelect v-model="choice.post" aria-label="Post"><ElOption v-for="p in cut.posts" :key="p.name" :value="p.name" :label="p.title" /></ElSelect></div>
    <template v-if="isMore">
      <div class="field"><span>Order</span>
        <ElSelect v-model="choice.order" aria-label="Order of contours"><ElOption value="short" label="short ways" /><ElOption value="heat" label="heat spread" /></ElSelect></div>
      <div class="field"><span>Bend lines marked</span>
        <ElSelect v-model="choice.marking.bends" aria-label="Bend lines marked"><ElOption v-for="(label, value) in MARKS" :key="value" :value="value" :label="label" /></ElSelect></div>
      <div class="field"><span>Skeleton pieces</span><LengthField v-model="choice.skeleton" label="Largest piece of the skeleton" /></div>
      <p class="checks">
        <label><input v-model="choice.marking.numbers" type="checkbox" />mark part numbers</label>
        <label><input v-model="choice.marking.directions" type="checkbox" />mark directions of bends</label>
        <label><input v-model="choice.round_freed" type="checkbox" />go round what is cut free</label>
        <label><input v-model="choice.common_cut" type="checkbox" />cut edges a kerf apart once</label>
        <label><input v-model="choice.cut_off" type="checkbox" />cut the unused rest off</label>
      </p>
    </template>
    <p><button type="button" class="bare more" :aria-expanded="isMore" @click="isMore = !isMore">{{ isMore ? 'Less about order, marking and scrap' : 'More: order, marking, scrap' }}</button></p>
    <div class="actions">
      <button type="button" class="main" :disabled="isOpen" @click="plan">{{ cut.run ? 'Plan the paths again' : 'Plan the paths' }}</button>
      <ProgressBar v-if="isOpen" :share="cut.run?.progress ?? 0" label="How many sheets are planned and proved" />
    </div>
  </section>
</template>

<style scoped>
.checks { display: grid; gap: 2px; margin: 4px 0; }
.checks label { display: flex; align-items: center; gap: 6px; }
.more { padding-left: 0; }
</style>
