<script setup lang="ts">
import { client, take } from '@/api/client'
import type { Stores } from '@/api/types'
import LengthField from '@/shell/LengthField.vue'
import { useView } from '@/stores/view'

import { useStores } from './useStores'

type Pressing = Stores['pressings'][number]

/** What is pressed into the sheet or out of it, with the hole and the room its maker or tool wants. */
const props = defineProps<{ pressings: Pressing[] }>()
const view = useView()
const change = useStores()
const KINDS = { in: 'pressed in', out: 'pressed out' } as const
const body = ({ name, kind, hole, clear }: Pressing) => ({ name, kind, hole, clear })
const put = (p: Pressing, changes: Partial<Pressing>) =>
  change(take(client.PUT('/api/stores/pressings/{pressing}', { params: { path: { pressing: p.id } }, body: body({ ...p, ...changes }) })))
const takeOut = (p: Pressing) => change(take(client.DELETE('/api/stores/pressings/{pressing}', { params: { path: { pressing: p.id } } })))
function add(): Promise<boolean> {
  const taken = new Set(props.pressings.map((p) => p.name))
  const number = Array.from({ length: 99 }, (_, i) => i + 1).find((n) => !taken.has(`press nut ${String(n)}`)) ?? 1
  return change(take(client.POST('/api/stores/pressings', { body: { name: `press nut ${String(number)}`, kind: 'in', hole: 5, clear: 8 } })))
}
const valueOf = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <h1>Pressed in and out <span><button type="button" name="add-pressing" @click="add">Add one</button></span></h1>
  <p v-if="!pressings.length" class="quiet">None yet. Add one, with the hole and the room that its maker wants.</p>
  <table v-else class="rows pressings">
    <thead><tr><th class="left">name</th><th>hole, {{ view.units }}</th><th>clear of edges</th></tr></thead>
    <tbody>
      <tr v-for="p in pressings" :key="p.id">
        <td class="left"><input type="text" :value="p.name" :aria-label="`Name of ${p.name}`" maxlength="60" @change="put(p, { name: valueOf($event) })" /><p class="small quiet"><select :value="p.kind" :aria-label="`How ${p.name} is made`" @change="put(p, { kind: valueOf($event) === 'out' ? 'out' : 'in' })"><option v-for="(title, kind) in KINDS" :key="kind" :value="kind">{{ title }}</option></select> <button type="button" class="bare small" @click="takeOut(p)">take out</button></p></td>
        <td><LengthField :model-value="p.hole" :label="`Hole of ${p.name}`" placeholder="none" @update:model-value="put(p, { hole: $event })" /></td>
        <td><LengthField :model-value="p.clear" :label="`Room of ${p.name}`" @update:model-value="put(p, { clear: $event })" /></td>
      </tr>
    </tbody>
  </table>
  <p class="quiet small">Clear is measured from its middle; what is pressed out has half of its footprint there. The fields of holes and pressed forms in a recipe take these over.</p>
</template>

<style scoped>
h1 { display: flex; justify-content: space-between; align-items: baseline; margin: 22px 0 8px; }
h1 span { font: 400 12.5px var(--words); }
.pressings td { vertical-align: top; }
td.left input { width: 150px; }
td input { width: 64px; padding: 1px 5px; }
td select { padding: 0 22px 0 4px; }
</style>
