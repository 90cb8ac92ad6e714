<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { useRouter } from 'vue-router'

import { client, take } from '@/api/client'
import { startersQuery } from '@/api/queries'
import type { RackLine } from '@/api/types'
import { tell } from '@/shell/tell'

/** Parts that are built here instead of coming as a file: a recipe to start from each. */
const props = defineProps<{ order: number }>()
const router = useRouter()
const queries = useQueryClient()
const { data } = useQuery(startersQuery())

async function begin(starter: string): Promise<void> {
  try {
    const line = await take<RackLine>(client.POST('/api/orders/{order}/recipes', { params: { path: { order: props.order } }, body: { starter } }))
    await queries.invalidateQueries({ queryKey: ['rack', props.order] })
    await router.push(`/orders/${props.order}/part/${line.part}`)
  } catch (error) {
    tell(error)
  }
}
</script>

<template>
  <section v-if="data">
    <h2>Build a part here</h2>
    <p class="choices"><button v-for="s in data.starters" :key="s.name" type="button" :name="`build-${s.name}`" :title="s.sentences.join('\n')" @click="begin(s.name)">{{ s.part }}</button></p>
  </section>
</template>

<style scoped>
.choices { display: flex; flex-wrap: wrap; gap: 6px; }
</style>
