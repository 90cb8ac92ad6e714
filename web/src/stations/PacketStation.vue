<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'

import { client, take } from '@/api/client'
import { checksQuery, packetQuery } from '@/api/queries'
import type { OrderCard, RackLine } from '@/api/types'
import { counted } from '@/lib/counted'
import { grouped } from '@/lib/length'
import ProblemNote from '@/shell/ProblemNote.vue'
import ProgressBar from '@/shell/ProgressBar.vue'
import SlipPane from '@/shell/SlipPane.vue'
import { tell } from '@/shell/tell'
import { useMay } from '@/shell/useMay'

import CheckList from './CheckList.vue'
import RunNote from './RunNote.vue'
import { useRun } from './useRun'

const props = defineProps<{ order: OrderCard; lines: RackLine[]; line?: RackLine | undefined; part: number }>()
const queries = useQueryClient()
const may = useMay()
const { data: packet, error, refetch } = useQuery(computed(() => packetQuery(props.order.id)))
const { data: checked } = useQuery(computed(() => checksQuery(props.order.id)))
const mayGo = computed(() => checked.value?.may_go !== false)
const { isOpen, stale, word } = useRun(() => packet.value?.run)
const isStale = computed(() => stale.value.length > 0)
const FOLDERS = [
  ['', 'For everybody'],
  ['blanks', 'Blanks: drawing, DXF, bend table, data'],
  ['nest', 'Nests: sheet DXF, pictures'],
  ['cut', 'Programs and paths'],
] as const
const groups = computed(() =>
  FOLDERS.map(([folder, title]) => ({
    title,
    files: (packet.value?.files ?? []).filter((f) => (f.name.includes('/') ? f.name.split('/')[0] : '') === folder),
  })).filter((g) => g.files.length),
)
const WORDS = { nothing: 'not stamped', 'in work': 'in work', stamped: 'stamped', stale: 'changed since' } as const
const checks = computed(() => props.order.stations.slice(0, 5))

async function pack(): Promise<void> {
  try {
    await take(client.POST('/api/orders/{order}/packet', { params: { path: { order: props.order.id } } }))
  } catch (fault) {
    tell(fault)
  }
  await queries.invalidateQueries({ predicate: (q) => ['order', 'packet', 'checks'].includes(String(q.queryKey[0])) })
}
</script>

<template>
  <main class="work">
    <ProblemNote v-if="error && !packet" :error="error" @again="refetch" />
    <template v-else-if="packet">
      <div v-if="!packet.packet" class="empty">
        <h1>{{ isOpen ? 'Packing' : 'No packet yet' }}</h1>
        <p>One zip with everything the floor needs: the blanks' drawings, DXF files and bend tables, the nested sheets, the programs, the report, and a manifest with the hash of every file.</p>
        <RunNote :run="packet.run" what="Packing" />
      </div>
      <div v-else class="files" :class="{ 'is-computing': isStale }">
        <p class="top"><b>What is in the packet</b> <span class="quiet">{{ counted(packet.files.length, 'file') }} and the manifest · {{ grouped(packet.size / 1024, 0) }} kB zipped</span></p>
        <RunNote :run="packet.run" what="Packing" />
        <table class="rows">
          <tbody v-for="g in groups" :key="g.title">
            <tr><th class="left" colspan="2">{{ g.title }}</th><th>bytes</th><th class="left">made from</th><th class="left">SHA-256</th></tr>
            <tr v-for="f in g.files" :key="f.name"><td colspan="2">{{ f.name }}</td><td class="num">{{ grouped(f.size) }}</td><td class="left quiet">{{ f.made_from }}</td><td class="left num hash" :title="f.sha256">{{ f.sha256.slice(0, 16) }}…</td></tr>
          </tbody>
        </table>
      </div>
    </template>
  </main>
  <SlipPane :order="order" title="Packet" :note="packet?.run ? word : ''">
    <section>
      <h2>The way here</h2>
      <dl class="facts">
        <template v-for="c in checks" :key="c.name"><dt>{{ c.name }}</dt><dd :class="{ up: c.state === 'stamped', bad: c.state === 'stale' }" :title="c.note">{{ WORDS[c.state] }}</dd><dd /></template>
      </dl>
    </section>
    <CheckList :order="order.id" />
    <div class="actions">
      <button type="button" class="main" :disabled="isOpen || !mayGo || !may('release')" @click="pack">{{ packet?.packet ? 'Pack again' : 'Pack' }}</button>
      <ProgressBar v-if="isOpen" :share="packet?.run?.progress ?? 0" label="How far the packet is" />
      <a v-else-if="packet?.packet && !isStale" class="button" :href="`/api/packets/${packet.packet}/zip`" download>Download the zip</a>
    </div>
    <p v-if="!may('release')" class="quiet">A packet is packed by who has the right to release.</p>
    <p v-if="!mayGo" class="bad">A check fails. Mend what it says, or say why the packet may go out all the same.</p>
    <p v-if="isOpen" class="quiet">drawing, writing and hashing every file …</p>
    <p v-if="packet?.packet && isStale" class="bad">The packet is no longer current and is not given out. Nest, cut and pack again.</p>
  </SlipPane>
</template>

<style scoped>
.work { grid-area: work; min-height: 0; min-width: 0; overflow: auto; background: var(--paper); }
.empty { max-width: 460px; margin: 14vh auto 0; }
.top { margin-bottom: 6px; }
.files { padding: 8px 14px 20px; }
tbody th { padding-top: 12px; }
.hash { font-size: 12px; color: var(--quiet); }
</style>
