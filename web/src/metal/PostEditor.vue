<script setup lang="ts">
import { reactive, ref } from 'vue'

import { client, take } from '@/api/client'
import { Problem } from '@/api/problem'
import type { Stores } from '@/api/types'
import NumberField from '@/shell/NumberField.vue'
import { tell } from '@/shell/tell'

import { useStores } from './useStores'

type Post = Stores['posts'][number]['post']

/** A post, field by field; Stores tries it out before it is kept. */
const props = defineProps<{ post: Post; origin: string }>()
const emit = defineEmits<{ kept: [name: string]; takenIn: [name: string]; gone: [] }>()
const change = useStores()
const draft = reactive({ ...props.post, decimals: props.post.decimals ?? 4, line_step: props.post.line_step ?? 0, header: (props.post.header ?? []).join('\n'), footer: (props.post.footer ?? []).join('\n') })
const file = ref<HTMLInputElement | null>(null)

const lines = (text: string) => text.split('\n').map((l) => l.trimEnd()).filter(Boolean)
const asPost = () => ({ ...draft, header: lines(draft.header), footer: lines(draft.footer) })

const send = (post: Record<string, unknown>) => change(take(client.PUT('/api/stores/posts', { body: { post } })))
async function keep(): Promise<void> {
  const post = asPost()
  if (await send(post)) emit('kept', post.name)
}
async function takeOut(): Promise<void> {
  if (await change(take(client.DELETE('/api/stores/posts/{name}', { params: { path: { name: props.post.name } } })))) emit('gone')
}
const asFile = () => `data:application/json,${encodeURIComponent(`${JSON.stringify(asPost(), null, 1)}\n`)}`
async function takeIn(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const text = await input.files?.[0]?.text()
  input.value = ''
  if (text === undefined) return
  try {
    const post = JSON.parse(text) as Record<string, unknown>
    if (await send(post)) emit('takenIn', String(post.name))
  } catch {
    tell(new Problem({ detail: 'the file is no JSON', fix: 'Choose a post that was taken out as JSON' }))
  }
}
</script>

<template>
  <form class="post" @submit.prevent="keep">
    <label>Name<input v-model="draft.name" type="text" aria-label="Name of the post" required /></label>
    <label class="wide">Title<input v-model="draft.title" type="text" aria-label="Title of the post" required /></label>
    <label>Units<select v-model="draft.units" aria-label="Units of the post"><option>mm</option><option>in</option></select></label>
    <label>Decimals<NumberField v-model="draft.decimals" :min="3" :max="7" whole label="Decimals of the post" /></label>
    <label>Arcs by<select v-model="draft.arcs"><option value="centre">centre, I and J</option><option value="radius">radius, R</option></select></label>
    <label>Kerf kept by<select v-model="draft.compensation" aria-label="Kerf kept by"><option value="path">the path</option><option value="machine">the machine, G42</option></select></label>
    <label>Word with G42<input v-model="draft.offset_word" class="num" type="text" placeholder="none" /></label>
    <label>Work zero<select v-model="draft.zero" aria-label="Work zero"><option value="lower-left">lower left</option><option value="lower-right">lower right</option><option value="upper-left">upper left</option><option value="upper-right">upper right</option></select></label>
    <label>Beam on<input v-model="draft.beam_on" class="num" type="text" aria-label="Beam on" /></label>
    <label>Beam off<input v-model="draft.beam_off" class="num" type="text" /></label>
    <label>Dwell<select v-model="draft.dwell"><option value="none">none</option><option value="seconds">G4, seconds</option><option value="milliseconds">G4, milliseconds</option></select></label>
    <label>Marking on<input v-model="draft.mark_on" class="num" type="text" /></label>
    <label>Marking off<input v-model="draft.mark_off" class="num" type="text" /></label>
    <label>Lines numbered by<NumberField v-model="draft.line_step" :min="0" :max="100" whole label="Lines numbered by" /></label>
    <label>Remarks<select v-model="draft.remarks"><option value="parentheses">in parentheses</option><option value="semicolon">after a semicolon</option><option value="none">none</option></select></label>
    <label>Program name<input v-model="draft.program_name" class="num" type="text" placeholder="none" /></label>
    <label class="check"><input v-model="draft.percent" type="checkbox" />% first and last</label>
    <label class="half">First lines<textarea v-model="draft.header" class="num" rows="3" aria-label="First lines" /></label>
    <label class="half">Last lines<textarea v-model="draft.footer" class="num" rows="3" /></label>
    <p class="quiet small full">Lines may name {program} {order} {sheet} {number} {material} {thickness} {kerf} {minutes}. A post is kept once a trial program in it has been read back and proved.</p>
    <p class="actions full">
      <button type="submit" class="main">Keep this post</button>
      <a class="button" :href="asFile()" :download="`${draft.name}.post.json`">JSON out</a>
      <button type="button" @click="file?.click()">JSON in</button>
      <input ref="file" type="file" accept=".json" class="hidden" aria-label="Post as JSON" @change="takeIn" />
      <button v-if="origin !== 'standard'" type="button" @click="takeOut">{{ origin === 'changed' ? 'As it came' : 'Take out' }}</button>
    </p>
  </form>
</template>

<style scoped>
.post { display: grid; grid-template-columns: repeat(6, minmax(0, 1fr)); gap: 6px 10px; padding: 8px 0 4px; }
label { display: grid; grid-column: span 2; gap: 1px; color: var(--quiet); font-size: 12.5px; }
.wide { grid-column: span 4; }
.half { grid-column: span 3; }
.full { grid-column: 1 / -1; }
.check { display: flex; align-items: end; gap: 6px; padding-bottom: 4px; }
.hidden { display: none; }
select, input:not([type='checkbox']) { width: 100%; min-width: 0; }
.actions { display: flex; gap: 6px; }
textarea { width: 100%; resize: vertical; border: 1px solid var(--hair); padding: 3px 6px; }
</style>
