<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, reactive } from 'vue'

import { client, take } from '@/api/client'
import { peopleQuery, whoQuery } from '@/api/queries'
import type { People, Person, Right } from '@/api/types'
import ProblemNote from '@/shell/ProblemNote.vue'
import { tell } from '@/shell/tell'

const RIGHTS: { name: Right; title: string; means: string }[] = [
  { name: 'plan', title: 'plan', means: 'parts, blanks, nests and paths' },
  { name: 'release', title: 'release', means: 'nests and packets' },
  { name: 'stores', title: 'shop data', means: 'what is in Stores' },
  { name: 'people', title: 'people', means: 'say who may do what' },
]
const LEAD = RIGHTS.map((r) => `${r.title}: ${r.means}`).join('; ')
const queries = useQueryClient()
const { data, error, refetch } = useQuery(peopleQuery())
const { data: who } = useQuery(whoQuery())
const may = computed(() => who.value?.rights.includes('people') ?? false)
const added = reactive({ user: '', name: '', password: '' })
const isWhole = computed(() => Object.values(added).every((v) => v.trim()))

async function settle(asked: Promise<People>): Promise<boolean> {
  try {
    queries.setQueryData(peopleQuery().queryKey, await asked)
    await queries.invalidateQueries({ queryKey: ['who'] })
    await queries.invalidateQueries({ queryKey: ['trail'] })
    return true
  } catch (fault) {
    tell(fault)
    // A box that was ticked and not taken shows again what holds.
    await queries.invalidateQueries({ queryKey: ['people'] })
    return false
  }
}

const change = (person: Person, body: { rights?: Right[]; is_active?: boolean }) =>
  settle(take<People>(client.PATCH('/api/people/{person}', { params: { path: { person: person.id } }, body })))

function toggle(person: Person, right: Right, event: Event): void {
  const box = event.target as HTMLInputElement
  const rights = RIGHTS.map((r) => r.name).filter((r) => (r === right ? box.checked : person.rights.includes(r)))
  void change(person, { rights }).then((taken) => { if (!taken) box.checked = person.rights.includes(right) })
}

async function add(): Promise<void> {
  if (await settle(take<People>(client.POST('/api/people', { body: { ...added, rights: [] } })))) {
    Object.assign(added, { user: '', name: '', password: '' })
  }
}
</script>

<template>
  <section>
    <h1>People</h1>
    <p class="quiet lead">Who can sign in may look. Ticked beyond that: {{ LEAD }}.</p>
    <ProblemNote v-if="error" :error="error" @again="refetch" />
    <table v-else class="rows">
      <thead><tr><th>name</th><th class="left">signs in as</th><th v-for="r in RIGHTS" :key="r.name" class="tick">{{ r.title }}</th><th /></tr></thead>
      <tbody>
        <tr v-for="p in data?.people ?? []" :key="p.id" :data-person="p.user" :class="{ gone: !p.is_active }">
          <td>{{ p.name }}</td>
          <td class="left quiet">{{ p.user }}</td>
          <td v-for="r in RIGHTS" :key="r.name" class="tick">
            <input type="checkbox" :checked="p.rights.includes(r.name)" :disabled="!may || !p.is_active" :aria-label="`${p.name} may: ${r.title}`" @change="toggle(p, r.name, $event)" />
          </td>
          <td><button v-if="may" type="button" class="bare small" @click="change(p, { is_active: !p.is_active })">{{ p.is_active ? 'shut out' : 'let in again' }}</button></td>
        </tr>
      </tbody>
    </table>
    <form v-if="may" @submit.prevent="add">
      <label>Name<input v-model="added.name" type="text" name="person" autocomplete="off" /></label>
      <label>Signs in as<input v-model="added.user" type="text" name="login" autocomplete="off" /></label>
      <label>Password<input v-model="added.password" type="password" name="new-password" autocomplete="new-password" /></label>
      <button type="submit" class="main" :disabled="!isWhole">Let in</button>
    </form>
    <p v-else class="quiet">Only who may say who may do what changes this.</p>
  </section>
</template>

<style scoped>
.lead { margin-bottom: 10px; }
table.rows .tick { text-align: center; vertical-align: middle; }
.tick input { display: block; margin: 0 auto; }
.gone td { color: var(--quiet); text-decoration: line-through; }
.gone td:last-child { text-decoration: none; }
form { display: flex; align-items: flex-end; gap: 8px; margin-top: 14px; }
label { display: block; color: var(--quiet); font-size: 12px; flex: 1; min-width: 0; }
label input { display: block; width: 100%; margin-top: 2px; }
</style>
