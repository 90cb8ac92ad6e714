<script setup lang="ts">
/** Says that something is at work whose end is not known. */
defineProps<{ label: string }>()
</script>

<template>
  <div class="busy" role="progressbar" :aria-label="label"><i /></div>
</template>

<style scoped>
.busy { position: relative; height: 3px; margin-top: 18px; background: var(--hair); overflow: hidden; }
.busy i { position: absolute; width: 30%; height: 100%; background: var(--dye); animation: run 1.4s linear infinite; }
@keyframes run { from { left: -30%; } to { left: 100%; } }
</style>
