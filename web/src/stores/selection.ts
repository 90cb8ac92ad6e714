import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

/** The one selection and hover that every view of a part shares. */
export const useSelection = defineStore('selection', () => {
  const bend = ref<number | null>(null)
  const hoveredBend = ref<number | null>(null)
  const panel = ref<number | null>(null)
  const isPickingAnchor = ref(false)
  const shownBend = computed(() => hoveredBend.value ?? bend.value)

  function clear(): void {
    bend.value = hoveredBend.value = panel.value = null
    isPickingAnchor.value = false
  }
  return { bend, hoveredBend, panel, isPickingAnchor, shownBend, clear }
})
