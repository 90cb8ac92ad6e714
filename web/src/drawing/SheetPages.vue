<script setup lang="ts">
import { ref } from 'vue'

/** The sheets of a drawing as they are printed, each to be had as a file; what lies over one is given by its place. */
defineProps<{ pages: readonly { svg: string; width: number; height: number }[]; file: (sheet: number, kind: string) => string }>()
defineSlots<{ over(props: { place: number }): unknown }>()
/** How large a sheet is shown: 1 is as wide as there is room for. */
const SIZES = [1, 1.5, 2.2, 3.2]
const size = ref(0)
</script>

<template>
  <div class="sheets">
    <p class="zoom">
      <button type="button" class="bare" name="smaller" title="Smaller" :disabled="size === 0" @click="size--">−</button>
      <button type="button" class="bare" name="larger" title="Larger" :disabled="size === SIZES.length - 1" @click="size++">+</button>
    </p>
    <div v-for="(page, i) in pages" :key="i" class="page" :style="{ aspectRatio: page.width / page.height, '--size': SIZES[size] }">
      <div class="paper" :innerHTML="page.svg" />
      <p class="files">sheet {{ i + 1 }} <a :href="file(i + 1, 'svg')" download>SVG</a> <a :href="file(i + 1, 'dxf')" download>DXF</a></p>
      <slot name="over" :place="i" />
    </div>
  </div>
</template>

<style scoped>
.sheets { flex: 1; min-height: 0; margin-top: 30px; overflow: auto; padding: 4px 18px 18px; background: var(--zinc); }
.zoom { position: absolute; z-index: 1; top: 2px; right: 14px; }
.zoom button { padding: 0 7px; font-size: 19px; line-height: 24px; }
.page { position: relative; width: calc(100% * var(--size)); max-width: calc((100vh - 190px) * 1.414 * var(--size)); margin: 22px auto 16px; background: #fff; box-shadow: 0 1px 5px rgb(0 0 0 / 25%); }
.paper, .paper :deep(svg) { display: block; width: 100%; height: 100%; }
.files { position: absolute; top: -20px; right: 0; display: flex; gap: 10px; color: var(--quiet); }
</style>
