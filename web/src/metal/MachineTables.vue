<script setup lang="ts">
import { computed, ref } from 'vue'

import { client, take } from '@/api/client'
import type { Stores } from '@/api/types'
import { sheetSize } from '@/lib/length'
import { PROCESSES, type Process } from '@/lib/processes'
import { useView } from '@/stores/view'

import PostEditor from './PostEditor.vue'
import { useStores } from './useStores'

type Machine = Stores['machines'][number]

/** Cutting machines, and the posts that write their programs. */
const props = defineProps<{ stores: Stores }>()
const view = useView()
const change = useStores()
const open = ref<string | null>(null)
/** Which opening of the editor this is: what is typed while a post is being kept, even under a new name, stays. */
const opening = ref(0)
const shown = computed(() => props.stores.posts.find((p) => p.post.name === open.value))
const ORIGINS = { standard: 'as it came', changed: 'changed here', own: 'made here' } as const
const body = ({ name, process, post, width, height }: Machine) => ({ name, process: process as Process, post, width, height })

const put = (machine: Machine, changes: Partial<Machine>) =>
  change(take(client.PUT('/api/stores/machines/{machine}', { params: { path: { machine: machine.id } }, body: body({ ...machine, ...changes }) })))
const takeOut = (machine: Machine) => change(take(client.DELETE('/api/stores/machines/{machine}', { params: { path: { machine: machine.id } } })))
function add(): Promise<boolean> {
  const taken = new Set(props.stores.machines.map((m) => m.name))
  const number = Array.from({ length: 99 }, (_, i) => i + 1).find((n) => !taken.has(`Machine ${String(n)}`)) ?? 1
  return change(take(client.POST('/api/stores/machines', { body: { name: `Machine ${String(number)}`, process: 'laser', post: 'plain', width: 3000, height: 1500 } })))
}
function openAnew(name: string | null): void {
  open.value = name
  opening.value++
}
const valueOf = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <h1>Machines <span><button type="button" @click="add">Add a machine</button></span></h1>
  <table class="rows">
    <thead><tr><th class="left">name and table, {{ view.units }}</th><th class="left">process</th><th class="left">post</th></tr></thead>
    <tbody>
      <tr v-for="m in stores.machines" :key="m.id">
        <td class="left"><input type="text" :value="m.name" :aria-label="`Name of ${m.name}`" @change="put(m, { name: valueOf($event) })" /><p class="small quiet"><span class="num">{{ sheetSize(m.width, m.height, view.units) }}</span> <button type="button" class="bare small" @click="takeOut(m)">take out</button></p></td>
        <td class="left"><select :value="m.process" :aria-label="`Process of ${m.name}`" @change="put(m, { process: valueOf($event) })"><option v-for="p in PROCESSES" :key="p">{{ p }}</option></select></td>
        <td class="left"><select :value="m.post" :aria-label="`Post of ${m.name}`" @change="put(m, { post: valueOf($event) })"><option v-for="p in stores.posts" :key="p.post.name">{{ p.post.name }}</option></select></td>
      </tr>
    </tbody>
  </table>
  <h1>Posts <span class="quiet small">how a machine wants its program</span></h1>
  <table class="rows">
    <tbody>
      <tr v-for="p in stores.posts" :key="p.post.name" :class="{ on: p.post.name === open }" :data-post="p.post.name">
        <td class="left"><button type="button" class="bare" :aria-expanded="p.post.name === open" @click="openAnew(open === p.post.name ? null : p.post.name)">{{ p.post.name }}</button></td>
        <td class="left">{{ p.post.title }}</td><td class="left quiet">{{ ORIGINS[p.origin] }}</td>
      </tr>
    </tbody>
  </table>
  <PostEditor v-if="shown" :key="opening" :post="shown.post" :origin="shown.origin" @kept="open = $event" @taken-in="openAnew" @gone="openAnew(null)" />
</template>

<style scoped>
h1 { display: flex; justify-content: space-between; align-items: baseline; margin: 22px 0 8px; }
h1 span { font: 400 12.5px var(--words); }
tr.on td { background: var(--dye-wash); }
td input { width: 150px; }
</style>
