<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ElOption, ElSelect } from 'element-plus/es/components/select/index'
import { ref } from 'vue'

import { client, take } from '@/api/client'
import type { RackLine } from '@/api/types'
import LengthField from '@/shell/LengthField.vue'
import { tell } from '@/shell/tell'

/** A solid that is no folded sheet may be a block that one is to be folded round. */
const props = defineProps<{ line: RackLine }>()
const queries = useQueryClient()
const thickness = ref(1.5)
const metal = ref<'inside' | 'outside'>('inside')
const busy = ref(false)

async function fold(): Promise<void> {
  busy.value = true
  try {
    await take(client.POST('/api/parts/{part}/recipe/block', { params: { path: { part: props.line.part } }, body: { thickness: thickness.value, metal: metal.value } }))
    await queries.invalidateQueries()
  } catch (error) {
    tell(error)
  }
  busy.value = false
}
</script>

<template>
  <section>
    <h2>Fold a sheet round it</h2>
    <p class="quiet small">If it is a block with flat faces, its shell becomes a fold recipe: then choose which faces are open and which edges are bent.</p>
    <div class="field"><span>Thickness</span><LengthField v-model="thickness" label="Thickness of the sheet" /></div>
    <div class="field"><span>Metal, of the faces</span>
      <ElSelect v-model="metal" aria-label="Metal, of the faces"><ElOption value="inside" label="inside" /><ElOption value="outside" label="outside" /></ElSelect>
    </div>
    <p class="actions"><button type="button" name="fold-round" :disabled="busy" @click="fold">{{ busy ? 'Looking at its faces' : 'Make the shell' }}</button></p>
  </section>
</template>
