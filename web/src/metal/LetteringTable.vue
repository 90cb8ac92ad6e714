<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { computed, onMounted, useTemplateRef } from 'vue'
import { useRoute } from 'vue-router'

import { client, take } from '@/api/client'
import type { Lettering } from '@/api/types'
import NumberField from '@/shell/NumberField.vue'
import TextField from '@/shell/TextField.vue'

import { earlier, FACTS, newLabel, sampleNote, TITLE_FIELDS, type Fact, type NoteField, type OwnField, type TitleField } from './lettering'
import { useStores } from './useStores'

/** How drawings are lettered: what bend notes say, the columns of the bend table, what is given beside. */
const props = defineProps<{ lettering: Lettering }>()
const change = useStores()
const facts = Object.keys(FACTS) as Fact[]
const note = computed(() => props.lettering.note ?? [])
const columns = computed(() => props.lettering.columns ?? [])
const sample = computed(() => sampleNote(note.value).join(' / ') || 'number and sign alone')

function set(now: Partial<Lettering>): void {
  void change(take(client.PATCH('/api/stores/lettering', { body: now })))
}
const setField = (at: number, now: Partial<NoteField>) => set({ note: note.value.map((f, i) => (i === at ? { ...f, ...now } : f)) })
const setColumn = (fact: Fact, isIn: boolean) => set({ columns: isIn ? [...columns.value, fact] : columns.value.filter((c) => c !== fact) })
const own = computed(() => props.lettering.fields ?? [])
const setOwn = (at: number, now: Partial<OwnField>) => set({ fields: own.value.map((f, i) => (i === at ? { ...f, ...now } : f)) })
const required = computed(() => props.lettering.required ?? [])
const setRequired = (field: TitleField, isIn: boolean) => set({ required: isIn ? [...required.value, field] : required.value.filter((f) => f !== field) })
/** Who comes from a drawing comes here. */
const head = useTemplateRef('head')
const route = useRoute()
onMounted(() => route.hash === '#drawings' && head.value?.scrollIntoView())
/** As typed: spaces before and after set words apart. */
const text = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <h1 ref="head">Drawings</h1>
  <h2>Bend note <span class="num">{{ sample }}</span></h2>
  <table class="rows note">
    <thead><tr><th>before</th><th>fact</th><th>after</th><th title="On a new line">line</th><th /></tr></thead>
    <tbody>
      <tr v-for="(f, i) in note" :key="i">
        <td><input type="text" :value="f.before" maxlength="12" :aria-label="`Before ${FACTS[f.says]}`" @change="setField(i, { before: text($event) })"></td>
        <td><ElSelect size="small" :model-value="f.says" :aria-label="`Fact ${i + 1}`" @update:model-value="setField(i, { says: $event })"><ElOption v-for="fact in facts" :key="fact" :value="fact" :label="FACTS[fact]" /></ElSelect></td>
        <td><input type="text" :value="f.after" maxlength="12" :aria-label="`After ${FACTS[f.says]}`" @change="setField(i, { after: text($event) })"></td>
        <td><input type="checkbox" :checked="f.new_line" :aria-label="`${FACTS[f.says]} on a new line`" @change="setField(i, { new_line: !f.new_line })"></td>
        <td class="hands">
          <button type="button" class="bare" :disabled="!i" title="Earlier" @click="set({ note: earlier(note, i) })">↑</button>
          <button type="button" class="bare" title="Take out" @click="set({ note: note.filter((_, at) => at !== i) })">×</button>
        </td>
      </tr>
    </tbody>
  </table>
  <p><button type="button" class="bare" name="add-fact" :disabled="note.length >= 10" @click="set({ note: [...note, { says: 'direction', before: ' ' }] })">Add a fact</button></p>
  <div class="field"><span>Decimals of angles</span><NumberField whole :min="0" :max="4" :model-value="lettering.angle_decimals ?? 2" label="Decimals of angles" @update:model-value="set({ angle_decimals: $event })" /></div>
  <div class="field"><span>Decimals of lengths</span><NumberField whole :min="0" :max="4" :model-value="lettering.length_decimals ?? null" placeholder="as sizes" label="Decimals of lengths" @update:model-value="set({ length_decimals: $event })" /></div>
  <div class="field"><span>Size of type, mm</span><NumberField :min="1.8" :max="7" :model-value="lettering.size ?? 2.5" label="Size of type" @update:model-value="set({ size: $event })" /></div>
  <label class="tick"><input type="checkbox" name="is-level" :checked="lettering.is_level" @change="set({ is_level: !lettering.is_level })"> notes stand level, not along their bends</label>
  <label class="tick"><input type="checkbox" name="says-once" :checked="lettering.says_once" @change="set({ says_once: !lettering.says_once })"> what all bends have alike is said once</label>
  <h2>Bend table</h2>
  <div class="columns">
    <label v-for="fact in facts" :key="fact" class="tick"><input type="checkbox" :name="`column-${fact}`" :checked="columns.includes(fact)" @change="setColumn(fact, !columns.includes(fact))"> {{ FACTS[fact] }}</label>
  </div>
  <div class="field"><span>Rows by</span><ElSelect :model-value="lettering.order ?? 'number'" aria-label="Rows by" @update:model-value="set({ order: $event })"><ElOption value="number" label="number" /><ElOption value="sequence" label="bend sequence" /></ElSelect></div>
  <h2>Beside the flat</h2>
  <div class="field"><span>Ordinates</span><ElSelect :model-value="lettering.ordinates ?? 'all'" aria-label="Ordinates" @update:model-value="set({ ordinates: $event })"><ElOption value="all" label="bends and holes" /><ElOption value="bends" label="bends alone" /><ElOption value="none" label="none" /></ElSelect></div>
  <div class="field"><span>Folded part</span><ElSelect :model-value="lettering.folded ?? 'isometric'" aria-label="Folded part" @update:model-value="set({ folded: $event })"><ElOption value="isometric" label="seen from a corner" /><ElOption value="views" label="also three sides" /></ElSelect></div>
  <label class="tick"><input type="checkbox" name="is-shaded" :checked="lettering.is_shaded ?? true" @change="set({ is_shaded: !(lettering.is_shaded ?? true) })"> folded parts in tones, not in lines alone</label>
  <h2>Title block</h2>
  <div class="field"><span>Maker</span><TextField :model-value="lettering.maker ?? ''" label="Maker" @update:model-value="set({ maker: $event })" /></div>
  <div class="field"><span>General tolerance</span><TextField :model-value="lettering.tolerance ?? ''" label="General tolerance" @update:model-value="set({ tolerance: $event })" /></div>
  <table v-if="own.length" class="rows note">
    <thead><tr><th>own field</th><th>says, unless a part says else</th><th title="No packet goes out before it says something">must say</th><th /></tr></thead>
    <tbody>
      <tr v-for="(f, i) in own" :key="f.label">
        <td><TextField required maxlength="24" :model-value="f.label" :label="`Name of own field ${i + 1}`" @update:model-value="setOwn(i, { label: $event })" /></td>
        <td><TextField class="wide" maxlength="60" :model-value="f.text ?? ''" :label="`Text of ${f.label}`" @update:model-value="setOwn(i, { text: $event })" /></td>
        <td><input type="checkbox" :checked="f.must_say" :aria-label="`${f.label} must say something`" @change="setOwn(i, { must_say: !f.must_say })"></td>
        <td class="hands"><button type="button" class="bare" title="Take out" @click="set({ fields: own.filter((_, at) => at !== i) })">×</button></td>
      </tr>
    </tbody>
  </table>
  <p><button type="button" class="bare" name="add-own-field" :disabled="own.length >= 3" @click="set({ fields: [...own, { label: newLabel(own.map((f) => f.label)) }] })">Add a field of your own</button></p>
  <p class="quiet small">No packet goes out before each drawing says</p>
  <div class="columns">
    <label v-for="(title, field) in TITLE_FIELDS" :key="field" class="tick"><input type="checkbox" :name="`required-${field}`" :checked="required.includes(field)" @change="setRequired(field, !required.includes(field))"> {{ title }}</label>
  </div>
</template>

<style scoped>
h1 { margin-top: 18px; }
.note input[type='text'] { width: 76px; padding: 1px 5px; }
.note input[type='text'].wide { width: 100%; }
.note th, .note td { text-align: left; }
.note td:nth-child(2) { width: 46%; }
.field { display: grid; grid-template-columns: 150px 150px; align-items: center; padding: 2px 0; }
.hands { white-space: nowrap; }
.tick { display: flex; align-items: center; gap: 6px; padding: 2px 0; }
.columns { display: grid; grid-template-columns: 1fr 1fr; }
h2 { margin-top: 10px; }
</style>
