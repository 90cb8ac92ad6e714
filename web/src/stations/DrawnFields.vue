<script setup lang="ts">
import { computed } from 'vue'

import type { RackLine } from '@/api/types'
import { length } from '@/lib/length'
import LengthField from '@/shell/LengthField.vue'
import NumberField from '@/shell/NumberField.vue'
import { useView } from '@/stores/view'

import { useGiven } from './useGiven'

/** What a drawing does not say: its unit, its thickness, and how each bend line is bent. */
const props = defineProps<{ line: RackLine }>()
const view = useView()
const { bends, give, setBend } = useGiven(() => props.line.part, () => props.line.drawn?.bends)
/** The inside radius of bends of which none is given: the thickness, once that is known. */
const asThick = computed(() => (props.line.thickness ? length(props.line.thickness, view.units) : '= t'))
</script>

<template>
  <section class="drawn">
    <h2>What the drawing leaves open</h2>
    <div v-if="!line.drawn?.unit" class="field"><span>One unit is</span>
      <span class="pair"><button type="button" name="unit-mm" @click="give({ unit: 1 })">1 mm</button><button type="button" name="unit-in" @click="give({ unit: 25.4 })">1 inch</button></span>
    </div>
    <div class="field"><span>Thickness</span><LengthField :model-value="line.thickness" label="Thickness" placeholder="not said" @update:model-value="$event && give({ thickness: $event })" /></div>
    <table v-if="line.drawn?.unit && bends.length" class="rows">
      <thead><tr><th>line</th><th>turn, °</th><th>R</th><th>direction</th></tr></thead>
      <tbody>
        <tr v-for="(b, i) in bends" :key="i">
          <td class="num">{{ i + 1 }}</td>
          <td><NumberField :min="1" :max="179" :model-value="b.angle" :label="`Turn of line ${i + 1}`" @update:model-value="setBend(i, { angle: $event })" /></td>
          <td><LengthField :model-value="b.radius" :label="`Radius of line ${i + 1}`" :placeholder="asThick" @update:model-value="setBend(i, { radius: $event })" /></td>
          <td><button type="button" :class="b.up ? 'up' : 'down'" :aria-label="`Direction of line ${i + 1}`" @click="setBend(i, { up: !b.up })">{{ b.up ? '▲ up' : '▽ down' }}</button></td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.pair { display: flex; gap: 8px; }
td input { width: 70px; padding: 1px 5px; }
td button { padding: 1px 8px; min-width: 72px; }
button.up { color: var(--up); border-color: var(--up); }
button.down { color: var(--down); border-color: var(--down); }
</style>
