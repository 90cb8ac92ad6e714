<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, onMounted, onScopeDispose, ref, shallowRef, watch } from 'vue'

import { shellQuery } from '@/api/queries'

import { ShellScene } from './ShellScene'

/** A refused solid with the place it was refused for lit. */
const props = defineProps<{ part: number }>()
const host = ref<HTMLElement | null>(null)
const scene = shallowRef<ShellScene | null>(null)
const { data } = useQuery(computed(() => shellQuery(props.part)))

function show(): void {
  if (data.value) scene.value?.show(data.value.triangles, data.value.spot ?? null)
}
onMounted(() => {
  if (!host.value) return
  scene.value = new ShellScene(host.value)
  show()
})
watch(data, show)
onScopeDispose(() => scene.value?.dispose())
</script>

<template>
  <div ref="host" class="host" aria-label="The solid as it came" />
</template>

<style scoped>
.host { min-height: 0; overflow: hidden; cursor: grab; }
</style>
