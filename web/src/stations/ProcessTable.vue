<script setup lang="ts">
import type { Cut } from '@/api/types'
import { duration } from '@/lib/length'
import { useView } from '@/stores/view'

/** What the whole nest takes by each process, side by side. */
defineProps<{ processes: Cut['processes']; isOpen: boolean }>()
defineEmits<{ compare: []; choose: [process: string] }>()
const view = useView()
</script>

<template>
  <section>
    <h2>Processes side by side <span>all sheets</span></h2>
    <table v-if="processes.length" class="rows">
      <thead><tr><th class="left">process</th><th>time</th><th>cost</th><th>cut, {{ view.units === 'mm' ? 'm' : 'ft' }}</th><th>pierces</th></tr></thead>
      <tbody>
        <tr v-for="p in processes" :key="p.process" :class="{ on: p.is_shown }" :data-process="p.process">
          <td class="left"><button type="button" class="bare" :disabled="p.is_shown" @click="$emit('choose', p.process)">{{ p.process }}</button></td>
          <template v-if="p.state === 'done'">
            <td class="num">{{ duration(p.seconds) }}</td><td class="num">{{ p.cost.toFixed(2) }}</td><td class="num">{{ (view.units === 'mm' ? p.cut_length / 1000 : p.cut_length / 304.8).toFixed(1) }}</td><td class="num">{{ p.pierces }}</td>
          </template>
          <td v-else colspan="4" class="left quiet" :title="p.what">{{ p.state === 'failed' ? p.what : 'being planned …' }}</td>
        </tr>
      </tbody>
    </table>
    <div v-if="processes.length < 3" class="actions"><button type="button" :disabled="isOpen" @click="$emit('compare')">Compare with the other processes</button></div>
  </section>
</template>

<style scoped>
tr.on td { background: var(--dye-wash); }
</style>
