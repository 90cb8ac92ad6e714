<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { useRouter } from 'vue-router'

import type { OrderCard, RackLine } from '@/api/types'
import FoldedView from '@/folded/FoldedView.vue'
import ShellView from '@/folded/ShellView.vue'
import { length } from '@/lib/length'
import BusyBar from '@/shell/BusyBar.vue'
import SlipPane from '@/shell/SlipPane.vue'
import NumberField from '@/shell/NumberField.vue'
import { tell } from '@/shell/tell'
import TextField from '@/shell/TextField.vue'
import { useView } from '@/stores/view'

import AssemblySheets from './AssemblySheets.vue'
import BuildHere from './BuildHere.vue'
import DrawnFields from './DrawnFields.vue'
import GaugeStates from './GaugeStates.vue'
import LineRules from './LineRules.vue'
import MaterialField from './MaterialField.vue'
import OrderFields from './OrderFields.vue'
import PaperField from './PaperField.vue'
import PartList from './PartList.vue'
import RecipeFields from './RecipeFields.vue'
import RoundBlock from './RoundBlock.vue'
import { foldDigest, useBlank } from './useBlank'
import { useLine } from './useLine'
import { useShown } from './useShown'

const props = defineProps<{ order: OrderCard; lines: RackLine[]; line?: RackLine | undefined; part: number }>()
const router = useRouter()
const view = useView()
const { change, takeOut, makeSets } = useLine()
const ready = computed(() => (props.line?.state === 'ready' ? props.part : 0))
const { blank } = useBlank(ready)
const digest = computed(() => foldDigest(blank.value))
const recipe = useTemplateRef('recipe')

const asDrawn = computed(() => {
  const d = props.line?.drawn
  if (!d) return ''
  const size = (k: number) => `${(d.width * k).toFixed(2)} × ${(d.height * k).toFixed(2)} mm`
  return `As millimetres it is ${size(1)}, as inches ${size(25.4)}.`
})

function setQuantity(quantity: number): void {
  if (props.line) change(props.line, 'Quantity', { quantity }, { quantity: props.line.quantity })
}

/** The lines that came with the same file, and how many sets of it are wanted: 0 when uneven. */
const mates = computed(() => props.lines.filter((l) => l.file === props.line?.file && l.state !== 'refused'))
const isSet = computed(() => mates.value.length > 1 || mates.value.some((l) => l.per_set > 1))
/** Whether it is known where the file has the parts that came with it. */
const isAssembly = computed(() => props.lines.filter((l) => l.file === props.line?.file).reduce((sum, l) => sum + l.places, 0) > 1)
const sets = computed(() => {
  const each = new Set(mates.value.map((l) => l.quantity / l.per_set))
  const [n = 0] = each
  return each.size === 1 && Number.isInteger(n) ? n : 0
})

const isAssemblyShown = useShown('assembly')

function setSets(n: number | null): void {
  if (props.line && n !== null) makeSets(props.line, n, sets.value || 1)
}

/** Thicker plates without bends than shops bend are blocks sooner than sheets, mm. */
const THICK = 10
/** A solid that was refused, or is a thick plate without bends: it may be a block to fold a sheet round. */
const isBlock = computed(() => {
  const { line } = props
  if (!line || line.drawn || line.is_recipe) return false
  return line.state === 'refused' ? line.has_shell : line.state === 'ready' && (line.thickness ?? 0) >= THICK && blank.value?.bends.length === 0
})

function setName(name: string): void {
  if (props.line) change(props.line, 'Name', { name }, { name: props.line.name })
}

async function remove(): Promise<void> {
  if (!props.line) return
  try {
    await takeOut(props.line)
    await router.push(`/orders/${props.order.id}/part`)
  } catch (error) {
    tell(error)
  }
}
</script>

<template>
  <main class="work">
    <AssemblySheets v-if="line && isAssembly && isAssemblyShown" :key="line.file" :line="line" />
    <template v-else-if="line && line.state === 'ready'">
      <div class="view">
        <p class="caption"><b>{{ line.name }}</b> <span class="quiet">folded, as it {{ line.is_recipe ? 'is built' : 'came' }} · turn it with the mouse</span></p>
        <FoldedView :part="part" :digest="digest" :blank="blank" :names="recipe?.names" :chosen="recipe?.chosen" @name="recipe?.pick($event)" />
      </div>
    </template>
    <div v-else-if="line && line.state === 'reading'" class="empty">
      <h1>{{ line.name }} is being read</h1>
      <p>The solid is opened, its thickness found and its bends recognised. You can go on working.</p>
      <BusyBar label="Reading" />
    </div>
    <div v-else-if="line && line.state === 'asking'" class="empty">
      <h1>{{ line.name }} is a drawing that leaves something open</h1>
      <p>{{ line.what }}. Give it in the slip: nothing is guessed.</p>
      <p v-if="line.drawn && !line.drawn.unit" class="num sizes">{{ asDrawn }}</p>
    </div>
    <div v-else-if="line" class="refusal">
      <div class="empty refused">
        <h1>{{ line.name }} was refused</h1>
        <p>{{ line.what }}</p>
        <p class="quiet">{{ line.where }}</p>
        <p>{{ line.fix }}.</p>
      </div>
      <ShellView v-if="line.has_shell" :part="part" />
    </div>
    <div v-else class="empty">
      <h1>Drop STEP, DXF or recipe files onto the rack</h1>
      <p>Each bent part becomes a line of this order: its thickness is found, it is unfolded, and its blank stands on the rack. A flat already drawn is taken as it is, and what is only an idea is built in the slip, from a recipe.</p>
    </div>
    <PartList v-if="!(isAssembly && isAssemblyShown)" class="list" :lines="lines" :part="part" :order="order.id" />
  </main>
  <SlipPane :order="order" :title="line?.name ?? 'Part'" :note="line ? line.source : ''">
    <template v-if="line">
      <div class="field"><span>Name</span><TextField name="part-name" required :model-value="line.name" label="Name" @update:model-value="setName" /></div>
      <div class="field"><span>Quantity</span><NumberField name="quantity" whole :min="1" :model-value="line.quantity" label="Quantity" @update:model-value="setQuantity" /></div>
      <div v-if="isSet" class="field"><span>Sets of {{ line.source }}</span><div><NumberField name="sets" whole :min="1" :model-value="sets || null" placeholder="uneven" label="Sets" @update:model-value="setSets" /><p class="quiet small">{{ line.per_set }} of this part in a set</p></div></div>
      <div class="field"><span>Material</span><MaterialField :line="line" /></div>
      <DrawnFields v-if="line.drawn" :line="line" />
      <RoundBlock v-if="isBlock" :key="line.part" :line="line" />
      <RecipeFields ref="recipe" v-if="line.is_recipe && line.state === 'ready'" :key="line.part" :line="line" />
      <dl v-if="line.state === 'ready'" class="facts">
        <template v-if="!line.drawn && !line.is_recipe"><dt>Thickness, found</dt><dd class="num">{{ length(line.thickness ?? 0, view.units) }}</dd><dd class="unit">{{ view.units }}</dd></template>
        <dt>Blank</dt><dd class="num">{{ length(line.width ?? 0, view.units) }} × {{ length(line.height ?? 0, view.units) }}</dd><dd class="unit">{{ view.units }}</dd>
        <template v-if="blank"><dt>Bends</dt><dd class="num">{{ blank.bends.length }}</dd><dd /></template>
        <template v-if="blank"><dt>Panels</dt><dd class="num">{{ blank.panels.length }}</dd><dd /></template>
        <template v-if="blank"><dt>Holes and cutouts</dt><dd class="num">{{ blank.holes.length }}</dd><dd /></template>
      </dl>
      <p v-if="isAssembly" class="together">
        <button type="button" name="assembly" :class="{ main: isAssemblyShown }" :title="isAssemblyShown ? 'Back to the part' : 'All parts of the file where it has them, numbered and listed'" @click="isAssemblyShown = !isAssemblyShown">Assembly drawing</button>
        <template v-if="isAssemblyShown"><span class="quiet">on</span><PaperField /></template>
      </p>
      <LineRules :line="line" />
      <div class="actions">
        <a v-if="line.state === 'ready'" class="button" :href="`/api/parts/${line.part}/files/step`" download>Folded part as STEP</a>
        <button type="button" @click="remove">Take out of the order</button>
      </div>
    </template>
    <BuildHere :order="order.id" />
    <OrderFields :order="order" />
    <GaugeStates :order="order.id" />
  </SlipPane>
</template>

<style scoped>
.work { grid-area: work; display: grid; grid-template: minmax(0, 1fr) auto / minmax(0, 1fr); min-width: 0; min-height: 0; background: var(--paper); }
.view { display: flex; flex-direction: column; min-height: 0; }
.caption { padding: 8px 14px 0; }
.together { display: flex; align-items: center; gap: 12px; margin-top: 8px; }
.list { max-height: 210px; border-top: 1px solid var(--hair); }
.empty { max-width: 480px; margin: 12vh auto 0; padding: 0 20px; }
.empty p { margin-top: 6px; }
.sizes { font-weight: 600; font-size: 14px; }
.refusal { display: grid; grid-template-rows: auto minmax(0, 1fr); min-height: 0; }
.refusal .empty { margin-top: 26px; }
.refused h1 { color: var(--oxide); }
</style>
