<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { ElCheckbox } from 'element-plus/es/components/checkbox/index'
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { computed } from 'vue'

import { netsQuery } from '@/api/queries'
import { length } from '@/lib/length'
import ProblemNote from '@/shell/ProblemNote.vue'
import { useView } from '@/stores/view'

import { holdersOf, isNet, withHolder, withNet, withOpen, type ShellStep } from './shellSteps'

/** Which faces of a shell are left open, what each hangs on, and other nets with the blank they make. */
const props = defineProps<{ part: number; step: ShellStep; seen: string }>()
const emit = defineEmits<{ change: [step: ShellStep] }>()
const view = useView()
const { data, error, isPlaceholderData, refetch } = useQuery(computed(() => netsQuery(props.part, props.seen)))
const faces = computed(() =>
  (data.value?.faces ?? []).map((f) => ({ ...f, holders: f.is_open || f.hangs_on === null ? [] : holdersOf(data.value?.faces ?? [], f) })),
)
const nets = computed(() =>
  (data.value?.nets ?? []).map((n) => ({ ...n, isNow: isNet(data.value?.faces ?? [], n.bent), size: `${length(n.width, view.units)} × ${length(n.height, view.units)}` })),
)
</script>

<template>
  <ProblemNote v-if="error && !data" :error="error" @again="refetch" />
  <div v-if="data" class="shell" :class="{ 'is-computing': isPlaceholderData }" :aria-busy="isPlaceholderData">
    <table class="rows faces">
      <thead><tr><th>face</th><th class="left">hangs on</th><th>open</th></tr></thead>
      <tbody>
        <tr v-for="f in faces" :key="f.name" :data-face="f.name">
          <td>{{ f.name }}</td>
          <td class="left">
            <ElSelect v-if="f.holders.length > 1" size="small" :model-value="f.hangs_on" :aria-label="`${f.name} hangs on`" @update:model-value="emit('change', withHolder(step, data.faces, f.name, $event))">
              <ElOption v-for="h in f.holders" :key="h" :value="h" :label="h" />
            </ElSelect>
            <span v-else class="quiet">{{ f.is_open ? 'left out' : (f.hangs_on ?? 'the first') }}</span>
          </td>
          <td class="num"><ElCheckbox :model-value="f.is_open" :aria-label="`${f.name} open`" @update:model-value="emit('change', withOpen(step, f.name, Boolean($event)))" /></td>
        </tr>
      </tbody>
    </table>
    <table v-if="nets.length" class="rows nets">
      <thead><tr><th>blank by net</th><th>bends {{ view.units }}</th><th /></tr></thead>
      <tbody>
        <tr v-for="n in nets" :key="n.bent.join()" class="num" :class="{ picked: n.isNow }">
          <td>{{ n.size }}</td>
          <td>{{ length(n.length, view.units) }}</td>
          <td><span v-if="n.isNow" class="quiet">as now</span><button v-else type="button" class="bare" name="take-net" @click="emit('change', withNet(step, n.bent))">take</button></td>
        </tr>
      </tbody>
    </table>
    <p class="quiet small">Edges between faces of which none hangs on the other are seams, mitred to the gap.</p>
  </div>
</template>

<style scoped>
.shell { padding: 2px 0 8px 10px; border-left: 2px solid var(--dye); }
.nets { margin-top: 8px; }
td .el-select { width: 116px; }
</style>
