<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'

import type { RackLine } from '@/api/types'
import ProblemNote from '@/shell/ProblemNote.vue'
import TextField from '@/shell/TextField.vue'

import { ADDABLE, namesOf, withFreeName, withName, type Step } from './recipeSteps'
import ShellFields from './ShellFields.vue'
import StepFields from './StepFields.vue'
import { useRecipe } from './useRecipe'

/** The recipe a part is built from: its dimensions, and its steps as sentences. */
const props = defineProps<{ line: RackLine }>()
const { answer, error, refetch, setDimension, setHand, setStep, addStep, dropStep } = useRecipe(() => props.line.part)
const steps = computed(() => answer.value?.recipe.steps ?? [])
const open = ref<number | null>(null)
/** A step that is being said and is not in the recipe yet. */
const draft = ref<Step | null>(null)
const toggle = (i: number) => {
  draft.value = null
  open.value = open.value === i ? null : i
}
const begin = (step: Step) => {
  open.value = null
  draft.value = withFreeName(step, steps.value)
}
/** The panel that was begun with, and the first free edge: of that panel, or of any. */
const first = computed(() => {
  const begun = steps.value[0] && 'name' in steps.value[0] ? steps.value[0].name : ''
  return answer.value?.panels.find((p) => p.name === begun || p.name === `${begun}-1`)?.name ?? begun
})
const firstEdge = computed(() => {
  const free = answer.value?.panels.flatMap((p) => p.edges.map((e) => `${p.name}.${e.number}`)) ?? []
  return free.find((e) => e.startsWith(`${first.value}.`)) ?? free[0] ?? `${first.value}.1`
})
const words = (name: string) => name.replaceAll('_', ' ')

/** While a step is being said its panels and edges are named in the folded view, and can be clicked there. */
const said = computed(() => draft.value ?? (open.value === null ? undefined : steps.value[open.value]))
const names = computed(() => (said.value ? answer.value?.panels : undefined))
const chosen = computed(() => (said.value ? namesOf(said.value) : []))

function pick(name: string): void {
  if (!said.value) return
  const changed = withName(said.value, name)
  if (changed === said.value) return
  if (draft.value) draft.value = changed
  else if (open.value !== null) setStep(open.value, changed)
}
defineExpose({ names, chosen, pick })

// The fields of a step may open below what is seen of the slip.
const box = useTemplateRef('box')
watch(() => [open.value, draft.value === null], () => nextTick(() => box.value?.querySelector('.open, .draft')?.scrollIntoView({ block: 'nearest' })))

// A step that the part has no room for stays to be mended.
watch(() => steps.value.length, () => (draft.value = null))

function drop(i: number): void {
  open.value = null
  dropStep(i)
}
</script>

<template>
  <section ref="box" class="recipe">
    <ProblemNote v-if="error && !answer" :error="error" @again="refetch" />
    <template v-if="answer">
      <h2>Fold recipe <span><a :href="`/api/parts/${line.part}/recipe/file`" download>as a file</a></span></h2>
      <table class="rows">
        <thead><tr><th>dimension</th><th>number or formula</th><th>{{ answer.recipe.units }}</th></tr></thead>
        <tbody>
          <tr v-for="d in answer.dimensions" :key="d.name">
            <td>{{ words(d.name) }}</td>
            <td><TextField class="num" required :model-value="d.said" :label="words(d.name)" @update:model-value="setDimension(d.name, $event)" /></td>
            <td class="num">{{ Number(d.value.toFixed(3)) }}</td>
          </tr>
        </tbody>
      </table>
      <div class="field hand"><span>Hand</span>
        <ElSelect :model-value="answer.recipe.hand ?? 'as-said'" aria-label="Hand" @update:model-value="setHand($event)"><ElOption value="as-said" label="as said" /><ElOption value="other" label="the other: its mirror image" /></ElSelect>
      </div>
      <ol>
        <li v-for="(sentence, i) in answer.sentences" :key="i" :class="{ open: open === i }">
          <button type="button" class="said" :aria-expanded="open === i" @click="toggle(i)">{{ sentence }}</button>
          <template v-if="open === i && steps[i]">
            <ShellFields v-if="steps[i].do === 'shell'" :part="line.part" :step="steps[i]" :seen="answer.seen" @change="setStep(i, $event)" />
            <StepFields :step="steps[i]" @change="setStep(i, $event)" />
            <button v-if="i" type="button" class="bare" @click="drop(i)">Take this step out</button>
          </template>
        </li>
      </ol>
      <div v-if="draft" class="draft">
        <StepFields :step="draft" @change="draft = $event" />
        <p class="quiet small">Click a panel or an edge in the view to name it. <template v-if="draft.do === 'profile'">The section begins at the edge: x leads away from the panel, y to its seen side.</template><template v-else>x and y are measured from a panel’s lower left corner; of a flange the bend lies below.</template><template v-if="'line' in draft"> Left and right of a line are seen from its first point.</template></p>
        <p class="actions"><button type="button" name="add-step" @click="addStep(draft)">Add the step</button> <button type="button" class="bare" @click="draft = null">Leave it</button></p>
      </div>
      <p v-else class="adding"><span class="quiet">Add</span> <button v-for="a in ADDABLE" :key="a.title" type="button" class="bare" @click="begin(a.begin(first, firstEdge))">{{ a.title.toLowerCase() }}</button></p>
    </template>
  </section>
</template>

<style scoped>
.hand { margin-top: 6px; }
td input { width: 132px; padding: 1px 5px; text-align: left; }
ol { margin: 8px 0 4px; padding-left: 22px; }
li { margin-bottom: 3px; }
li::marker { color: var(--quiet); font-family: var(--figures); }
.said { display: block; width: 100%; padding: 0; border: 0; background: none; text-align: left; color: var(--ink); white-space: normal; line-height: 1.3; font-weight: 400; }
.said:hover, .open > .said { color: var(--dye); }
.adding { display: flex; flex-wrap: wrap; gap: 2px 10px; }
.draft .actions { margin-top: 6px; }
</style>
