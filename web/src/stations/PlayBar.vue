<script setup lang="ts">
import { duration } from '@/lib/length'

/** The controls of a program that is played back. */
defineProps<{ total: number; isPlaying: boolean; passes: number; shown: number }>()
defineEmits<{ play: []; step: [by: 1 | -1]; close: [] }>()
const at = defineModel<number>('at', { required: true })
const speed = defineModel<number>('speed', { required: true })
const SPEEDS = [1, 5, 10, 30, 100]
</script>

<template>
  <div class="bar" role="group" aria-label="Playback">
    <button type="button" class="wide" @click="$emit('play')">{{ isPlaying ? 'Pause' : 'Play' }}</button>
    <button type="button" aria-label="Contour before" @click="$emit('step', -1)">◂</button>
    <button type="button" aria-label="Contour after" @click="$emit('step', 1)">▸</button>
    <input v-model.number="at" type="range" min="0" :max="total" step="any" aria-label="Time of the program" />
    <span class="num">{{ duration(at) }} of {{ duration(total) }}</span>
    <span class="num quiet">{{ Math.min(shown, passes) }} / {{ passes }}</span>
    <label>speed <select v-model.number="speed" aria-label="Speed of the playback"><option v-for="s in SPEEDS" :key="s" :value="s">× {{ s }}</option></select></label>
    <button type="button" class="bare" :disabled="at === 0" @click="$emit('close')">Show all</button>
  </div>
</template>

<style scoped>
.bar { display: flex; align-items: center; gap: 10px; padding: 4px 14px 6px; border-top: 1px solid var(--hair); white-space: nowrap; }
.wide { width: 64px; }
input[type='range'] { flex: 1; min-width: 80px; accent-color: var(--dye); }
label { display: flex; align-items: center; gap: 5px; color: var(--quiet); }
@media (max-width: 1150px) { .bar { flex-wrap: wrap; row-gap: 2px; } .num { order: 1; } }
</style>
