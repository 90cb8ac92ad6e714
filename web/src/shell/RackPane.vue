<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { putArchive, putFile } from '@/api/client'
import { Problem } from '@/api/problem'
import type { RackLine } from '@/api/types'
import { counted } from '@/lib/counted'
import { type Entry, filesOf } from '@/lib/dropped'
import { byGauge } from '@/lib/gauges'

import RackItem from './RackItem.vue'
import { tell } from './tell'
import { useSignal } from './useSignal'

const props = defineProps<{ order: number; lines: RackLine[]; part: number }>()
const [router, route, queries] = [useRouter(), useRoute(), useQueryClient()]
const groups = computed(() => byGauge(props.lines))
const isOver = ref(false)
const chooser = ref<HTMLInputElement | null>(null)

async function putOne(file: File): Promise<RackLine[]> {
  try {
    if (!file.name.toLowerCase().endsWith('.zip')) return [await putFile(props.order, file)]
    const { lines, left_out: left } = await putArchive(props.order, file)
    if (left.length) tell(new Problem({ detail: `${counted(left.length, 'file is no part', 'files are no parts')}: ${left.map((l) => l.name).join(', ')}`, where: file.name }))
    return lines
  } catch (error) {
    tell(error)
    return []
  }
}

function drop(data: DataTransfer | null): void {
  // The entries are gone once this call is over, so they are taken before anything is awaited.
  const entries = [...(data?.items ?? [])].map((item) => item.webkitGetAsEntry() as Entry | null)
  void filesOf(entries.filter((e) => e !== null)).then(put, tell)
}

async function put(files: Iterable<File>): Promise<void> {
  isOver.value = false
  const came: RackLine[] = []
  for (const file of files) {
    came.push(...(await putOne(file)))
    await queries.invalidateQueries({ queryKey: ['rack', props.order] })
  }
  if (chooser.value) chooser.value.value = ''
  await queries.invalidateQueries({ queryKey: ['order', props.order] })
  // What was put down is looked at next: a file that cannot be read says why there.
  if (came[0]) await router.push({ name: 'station', params: { ...route.params, station: 'part', part: came[0].part } })
}

function open(line: RackLine): void {
  const station = ['nest', 'cut', 'packet'].includes(String(route.params.station)) ? 'blank' : route.params.station
  void router.push({ name: 'station', params: { ...route.params, station, part: line.part } })
}

function step(by: number): void {
  const listed = groups.value.flatMap((g) => g.lines)
  const at = listed.findIndex((l) => l.part === props.part)
  const next = listed[(at + by + listed.length) % listed.length]
  if (next) void router.push({ name: 'station', params: { ...route.params, part: next.part } })
}
useSignal('next', () => step(1))
useSignal('previous', () => step(-1))
</script>

<template>
  <aside
    class="rack" :class="{ over: isOver }" aria-label="Rack"
    @dragover.prevent="isOver = true" @dragleave="isOver = false" @drop.prevent="drop($event.dataTransfer)"
  >
    <section v-for="group in groups" :key="group.name">
      <h2>{{ group.name }}<span class="quiet">{{ counted(group.lines.length, 'part') }} · {{ counted(group.pieces, 'pc') }}</span></h2>
      <RackItem
        v-for="line in group.lines" :key="line.id" :line="line" :scale="group.scale"
        :is-open="line.part === part" @open="open(line)"
      />
    </section>
    <div class="drop">
      <p>{{ isOver ? 'Let go to add the parts' : 'Drop STEP or DXF files here, a folder or a zip of them' }}</p>
      <button type="button" @click="chooser?.click()">Choose files</button>
      <input ref="chooser" type="file" accept=".step,.stp,.dxf,.json,.zip" multiple hidden @change="put(chooser?.files ?? [])" />
    </div>
  </aside>
</template>

<style scoped>
.rack { grid-area: rack; overflow: hidden auto; padding: 10px 4px 12px 12px; border-right: 1px solid var(--hair); }
.over { box-shadow: inset 0 0 0 2px var(--dye); }
section { margin-bottom: 12px; }
h2 { display: flex; justify-content: space-between; align-items: baseline; flex-wrap: wrap; padding-bottom: 3px; margin-right: 8px; border-bottom: 1px solid var(--hair); font-size: 14.5px; column-gap: 6px; white-space: nowrap; overflow: hidden; }
h2 span { font: 400 13px var(--narrow); }
.drop { margin: 6px 10px 0 0; padding: 12px 6px; text-align: center; border: 1px dashed var(--silhouette); color: var(--quiet); }
.drop button { margin-top: 6px; }
</style>
