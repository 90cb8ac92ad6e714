<script setup lang="ts">
import { useRouter } from 'vue-router'

import type { RackLine } from '@/api/types'
import { counted } from '@/lib/counted'
import { length } from '@/lib/length'
import { useView } from '@/stores/view'

const props = defineProps<{ lines: RackLine[]; part: number; order: number }>()
const router = useRouter()
const view = useView()

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
    <table class="rows">
      <thead><tr><th>part</th><th class="left file">file</th><th class="left">material</th><th>T, {{ view.units }}</th><th>blank, {{ view.units }}</th><th>pieces</th><th class="left">in the nest</th><th class="left">state</th></tr></thead>
      <tbody>
        <tr v-for="line in lines" :key="line.id" class="can" :class="{ picked: line.part === part }" @click="open(line)">
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
thead th { position: sticky; top: -4px; background: var(--paper); }
/* The slip names the file of the part that is open. */
@media (max-width: 1150px) { .file { display: none; } .scroll { font-size: 12.5px; } .scroll .num { font-size: 12px; } }
.state { max-width: 160px; overflow: hidden; text-overflow: ellipsis; }
</style>
