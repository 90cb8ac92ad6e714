<script setup lang="ts">
import { computed, onMounted, useTemplateRef, watch } from 'vue'

import type { RackLine } from '@/api/types'

const props = defineProps<{ line: RackLine; scale: number; isOpen: boolean }>()
defineEmits<{ open: [] }>()

const picture = computed(() => {
  const { width, height } = props.line
  if (!width || !height) return null
  return { box: `0 0 ${width} ${height}`, w: width / props.scale, h: height / props.scale, flip: `matrix(1 0 0 -1 0 ${height})` }
})
const isWarned = computed(() => props.line.worst === 'error' || props.line.worst === 'warning')
const item = useTemplateRef('item')
/** What is open is in sight, however long the rack. */
const show = () => props.isOpen && item.value?.scrollIntoView({ block: 'nearest' })
onMounted(show)
watch(() => props.isOpen, show)
const state = computed(() => ({ reading: 'reading …', asking: 'left open', refused: 'refused', ready: '' })[props.line.state])
</script>

<template>
  <button ref="item" type="button" class="item" :class="{ open: isOpen, refused: line.state === 'refused' }" :data-part="line.part" @click="$emit('open')">
    <svg v-if="picture" :viewBox="picture.box" :style="{ width: `calc(${picture.w} * var(--rack-px))`, height: `calc(${picture.h} * var(--rack-px))` }" aria-hidden="true">
      <path :d="line.silhouette" :transform="picture.flip" fill-rule="evenodd" />
    </svg>
    <span v-else class="none" :class="line.state">{{ state }}</span>
    <span v-if="isWarned" class="finding" :class="line.worst">{{ line.findings }}</span>
    <span class="name"><span>{{ line.name }}</span><span class="num">×{{ line.quantity }}</span></span>
  </button>
</template>

<style scoped>
.item { position: relative; display: block; width: 100%; padding: 6px 8px 3px 8px; margin: 0 0 2px -8px; width: calc(100% + 8px);
  text-align: left; border: 0; border-left: 4px solid transparent; background: none; color: var(--ink); border-radius: 0; }
.item:hover { background: var(--metal-faint); }
.item.open { background: var(--paper); border-left-color: var(--dye); }
svg { display: block; overflow: visible; }
path { fill: var(--silhouette); }
.open path { fill: var(--dye); }
.none { display: block; padding: 8px 10px; border: 1px dashed var(--silhouette); color: var(--quiet); font-size: 12px; }
.none.refused { border-color: var(--oxide); color: var(--oxide); }
.name { display: flex; justify-content: space-between; gap: 6px; padding-top: 3px; font-weight: 400; }
.name > span:first-child { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.finding { position: absolute; right: 8px; top: 6px; width: 18px; height: 18px; font: 600 12px/18px var(--figures); text-align: center; color: var(--on-tone); border-radius: 2px; }
.finding.warning { background: var(--ochre); }
.finding.error { background: var(--oxide); }
</style>
