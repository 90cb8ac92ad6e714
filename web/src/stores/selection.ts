import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

/** What a click on the flat or the folded view does instead of choosing. */
export type Picking = '' | 'anchor' | 'edge' | 'corner' | 'cutout' | 'measure' | 'size'

export interface Measured {
  p: [number, number, number]
  panel: number | null
  normal: [number, number, number] | null
}

/** The one selection and hover that every view of a part shares. */
export const useSelection = defineStore('selection', () => {
  const bend = ref<number | null>(null)
  const hoveredBend = ref<number | null>(null)
  const panel = ref<number | null>(null)
  const finding = ref<number | null>(null)
  const picking = ref<Picking>('')
  const measured = ref<Measured[]>([])
  const shownBend = computed(() => hoveredBend.value ?? bend.value)

  function pick(what: Picking): void {
    picking.value = picking.value === what ? '' : what
    measured.value = []
  }

  /** Add a point to what is measured; a third begins anew. */
  function measure(point: Measured): void {
    measured.value = measured.value.length >= 2 ? [point] : [...measured.value, point]
  }

  function clear(): void {
    bend.value = hoveredBend.value = panel.value = finding.value = null
    picking.value = ''
    measured.value = []
  }
  return { bend, hoveredBend, panel, finding, picking, measured, shownBend, pick, measure, clear }
})
