<script setup lang="ts">
import { useQueries, useQuery, useQueryClient } from '@tanstack/vue-query'
import { storeToRefs } from 'pinia'
import { computed, watch } from 'vue'

import { client, take } from '@/api/client'
import { assemblyQuery, assemblySheetQuery } from '@/api/queries'
import type { Assembly, RackLine } from '@/api/types'
import SheetPages from '@/drawing/SheetPages.vue'
import BusyBar from '@/shell/BusyBar.vue'
import ProblemNote from '@/shell/ProblemNote.vue'
import { tell } from '@/shell/tell'
import { useView } from '@/stores/view'

import RunNote from './RunNote.vue'
import { useRun } from './useRun'

/** The drawing of the assembly that a line came in: a worker makes it, and makes it anew when a part has changed. */
const props = defineProps<{ line: RackLine }>()
const queries = useQueryClient()
const { paper, drawnIn } = storeToRefs(useView())
const asked = computed(() => ({ paper: paper.value, units: drawnIn.value }))
const query = computed(() => assemblyQuery(props.line.id, asked.value))
const { data: assembly, error, refetch } = useQuery(query)
const run = computed(() => assembly.value?.run)
const { isOpen, hasFailed, stale, word } = useRun(run)
const drawing = computed(() => assembly.value?.drawing ?? 0)
const texts = useQueries({ queries: computed(() => (assembly.value?.sheets ?? []).map((_, i) => assemblySheetQuery(drawing.value, i + 1))) })
const pages = computed(() =>
  (assembly.value?.sheets ?? []).flatMap(([width, height], i) => {
    const svg = texts.value[i]?.data
    return svg ? [{ svg, width, height }] : []
  }),
)
const file = (sheet: number, kind: string) => `/api/assemblies/${String(drawing.value)}/${String(sheet)}/${kind}`

async function draw(): Promise<void> {
  const { queryKey } = query.value
  try {
    const path = { params: { path: { line: props.line.id }, query: asked.value as object } }
    queries.setQueryData(queryKey, await take<Assembly>(client.POST('/api/lines/{line}/assembly', path)))
  } catch (problem) {
    tell(problem)
  }
}

/** What is not drawn yet, or not as its parts are now; one that failed waits to be asked for. */
const isDue = computed(() => !!assembly.value && !isOpen.value && !hasFailed.value && (!run.value || stale.value.length > 0))
watch(isDue, (is) => is && void draw(), { immediate: true })
watch(query, () => isDue.value && void draw())
</script>

<template>
  <section class="assembly" :class="{ 'is-computing': isOpen && pages.length }">
    <p class="caption">
      <b>Assembly</b> <span class="quiet">{{ isOpen ? `the drawing is ${word}` : 'as it is printed' }}</span>
      <a v-if="drawing" :href="`/api/assemblies/${drawing}/pdf`" target="_blank" rel="noopener">PDF</a>
    </p>
    <ProblemNote v-if="error && !assembly" :error="error" @again="refetch" />
    <div v-else-if="hasFailed" class="failed">
      <RunNote :run="run ?? null" what="Drawing the assembly" />
      <button type="button" name="draw-again" @click="draw">Draw it again</button>
    </div>
    <SheetPages v-else-if="pages.length" :pages="pages" :file="file" />
    <div v-else class="waiting">
      <p>The assembly of {{ line.source }} is being drawn. You can go on working.</p>
      <BusyBar label="Drawing" />
    </div>
  </section>
</template>

<style scoped>
.assembly { position: relative; display: flex; flex-direction: column; min-height: 0; background: var(--zinc); }
.caption { position: absolute; top: 0; left: 0; padding: 8px 14px 0; }
.caption a { margin-left: 10px; }
.failed, .waiting { max-width: 480px; margin: 12vh auto 0; padding: 0 20px; }
</style>
