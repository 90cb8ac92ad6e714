<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import type { RackLine } from '@/api/types'
import { counted } from '@/lib/counted'
import { length } from '@/lib/length'
import { useView } from '@/stores/view'

const props = defineProps<{ lines: RackLine[]; part: number; order: number }>()
const router = useRouter()
const view = useView()

const SORTS = [
  { name: 'all', title: 'all', holds: () => true },
  { name: 'ready', title: 'ready', holds: (l: RackLine) => l.state === 'ready' && !l.findings },
  { name: 'findings', title: 'with findings', holds: (l: RackLine) => l.state === 'ready' && l.findings > 0 },
  { name: 'asking', title: 'left open', holds: (l: RackLine) => l.state === 'asking' },
  { name: 'refused', title: 'refused', holds: (l: RackLine) => l.state === 'refused' },
  { name: 'reading', title: 'being read', holds: (l: RackLine) => l.state === 'reading' },
]
const chosen = ref('all')
/** Only what there is can be chosen; what is chosen stays to be seen when the last of it has gone. */
const sorts = computed(() =>
  SORTS.map((s) => ({ ...s, count: props.lines.filter(s.holds).length })).filter((s) => s.count || s.name === chosen.value),
)
const shown = computed(() => props.lines.filter(SORTS.find((s) => s.name === chosen.value)?.holds ?? (() => true)))

function open(line: RackLine): void {
  void router.push(`/orders/${props.order}/part/${line.part}`)
}

function rulesOf(line: RackLine): string {
  return [line.priority ? `priority ${line.priority}` : '', line.is_filler ? 'filler' : '', line.may_mirror ? 'mirror' : ''].filter(Boolean).join(', ')
}

function said(line: RackLine): string {
  if (line.state === 'refused') return line.what
  if (line.state === 'reading') return 'being read'
  if (line.state === 'asking') return 'left open'
  return line.findings ? counted(line.findings, 'finding') : 'ready'
}
</script>

<template>
  <div v-if="lines.length" class="scroll">
    <p class="sorts">
      <button v-for="s in sorts" :key="s.name" type="button" class="bare small" :class="{ on: s.name === chosen }" :data-sort="s.name" :aria-pressed="s.name === chosen" @click="chosen = s.name">{{ s.title }} <span class="num">{{ s.count }}</span></button>
      <a class="small" :href="`/api/orders/${order}/results`" download>Results as CSV</a>
    </p>
    <table class="rows">
      <thead><tr><th>part</th><th class="left file">file</th><th class="left">material</th><th>T, {{ view.units }}</th><th>blank, {{ view.units }}</th><th>pieces</th><th class="left">in the nest</th><th class="left">state</th></tr></thead>
      <tbody>
        <tr v-for="line in shown" :key="line.id" class="can" :class="{ picked: line.part === part }" @click="open(line)">
          <td>{{ line.name }}</td>
          <td class="left file quiet">{{ line.source }}</td>
          <td class="left">{{ line.material_title ?? '—' }}</td>
          <td class="num">{{ line.thickness ? length(line.thickness, view.units) : '' }}</td>
          <td class="num">{{ line.width && line.height ? `${length(line.width, view.units)} × ${length(line.height, view.units)}` : '' }}</td>
          <td class="num">{{ line.quantity }}</td>
          <td class="left">{{ rulesOf(line) }}</td>
          <td class="left state" :class="{ bad: line.state === 'refused' }" :title="said(line)">{{ said(line) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll { overflow: auto; padding: 4px 12px 6px; background: var(--paper); }
.sorts { display: flex; gap: 14px; align-items: baseline; padding: 2px 4px 0; }
.sorts .on { color: var(--ink); text-decoration: underline; text-underline-offset: 3px; }
.sorts a { margin-left: auto; }
thead th { position: sticky; top: -4px; background: var(--paper); }
/* The slip names the file of the part that is open. */
@media (max-width: 1150px) { .file { display: none; } .scroll { font-size: 12.5px; } .scroll .num { font-size: 12px; } }
.state { max-width: 160px; overflow: hidden; text-overflow: ellipsis; }
</style>
