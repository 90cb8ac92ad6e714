<script setup lang="ts">
import type { Nest } from '@/api/types'

defineProps<{ nest: Nest; mayMove: boolean; sheet: number }>()
const emit = defineEmits<{ lay: [part: string] }>()
</script>

<template>
  <section v-if="nest.unplaced.length || nest.faults.length">
    <template v-if="nest.faults.length">
      <h2>Breaks rules <span>{{ nest.faults.length }}</span></h2>
      <p v-for="(f, i) in nest.faults.slice(0, 12)" :key="i" class="finding error">Sheet {{ f.sheet }}: {{ f.text }}.</p>
    </template>
    <template v-if="nest.unplaced.length">
      <h2>Side tray <span>on no sheet</span></h2>
      <div v-for="u in nest.unplaced" :key="u.part" class="tray">
        <p><b><span class="num">{{ u.quantity }}</span> × {{ u.part }}</b> <span class="quiet">{{ u.why }}</span></p>
        <button v-if="mayMove" type="button" @click="emit('lay', u.part)">Lay on sheet {{ sheet }}</button>
      </div>
    </template>
  </section>
</template>

<style scoped>
.tray { display: grid; grid-template-columns: 1fr auto; gap: 8px; align-items: center; padding: 3px 0; border-bottom: 1px solid var(--hair); }
</style>
