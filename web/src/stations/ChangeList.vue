<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ref, watch } from 'vue'

import { client, putRevision, take } from '@/api/client'
import type { Blank } from '@/api/types'
import { counted } from '@/lib/counted'
import { tell } from '@/shell/tell'

/** A newer file of the part: dropping it, what it changed, and twins of the part. */
const props = defineProps<{ blank: Blank }>()
const queries = useQueryClient()
const isOver = ref(false)
const chooser = ref<HTMLInputElement | null>(null)
const look = () => queries.invalidateQueries({ queryKey: ['blank', props.blank.part] })
watch(() => props.blank.revision, () => queries.invalidateQueries())

async function put(files: FileList | null | undefined): Promise<void> {
  isOver.value = false
  const file = files?.[0]
  if (!file) return
  try {
    await putRevision(props.blank.part, file)
  } catch (error) {
    tell(error)
  }
  if (chooser.value) chooser.value.value = ''
  await look()
}

async function join(): Promise<void> {
  try {
    await take(client.POST('/api/parts/{part}/twin', { params: { path: { part: props.blank.part } } }))
  } catch (error) {
    tell(error)
  }
  await queries.invalidateQueries()
}
</script>

<template>
  <section>
    <p v-if="blank.twin" class="finding note">This is the same part as {{ blank.twin }}. <button type="button" class="bare" @click="join">Make one of the two</button></p>
    <h2>Revision {{ blank.revision }} <span v-if="blank.changes.length">{{ counted(blank.changes.length, 'change') }}</span></h2>
    <ol v-if="blank.changes.length"><li v-for="(c, i) in blank.changes" :key="i">{{ c.text }}</li></ol>
    <p v-if="blank.revision_fault && blank.revision_fault !== 'reading'" class="finding error">{{ blank.revision_fault }}. The part stays as it was.</p>
    <div class="drop" :class="{ over: isOver }" @dragover.prevent.stop="isOver = true" @dragleave="isOver = false" @drop.prevent.stop="put($event.dataTransfer?.files)">
      <span class="quiet">{{ blank.revision_fault === 'reading' ? 'Reading the newer file …' : 'Drop a newer file of this part here' }}</span>
      <button type="button" class="bare" @click="chooser?.click()">choose</button>
      <input ref="chooser" type="file" name="revision" accept=".step,.stp,.dxf,.json" hidden @change="put(chooser?.files)" />
    </div>
  </section>
</template>

<style scoped>
ol { margin: 2px 0 6px; padding-left: 20px; }
.drop { display: flex; justify-content: space-between; padding: 6px 8px; border: 1px dashed var(--silhouette); }
.over { border-color: var(--dye); background: var(--dye-wash); }
</style>
