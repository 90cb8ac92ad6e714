import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'

import { showInchesAs, type InchStyle, type Units } from '@/lib/length'

export type Edge = 'left' | 'right' | 'bottom' | 'top'

function kept<T>(key: string, first: T) {
  const value = ref<T>(JSON.parse(localStorage.getItem(key) ?? JSON.stringify(first)) as T)
  watch(value, (now) => localStorage.setItem(key, JSON.stringify(now)))
  return value
}

/** Dark on light, and light on dark. */
export const SHIFTS = ['day', 'night'] as const
export type Shift = (typeof SHIFTS)[number]

const isDarkWanted = () => typeof matchMedia === 'function' && matchMedia('(prefers-color-scheme: dark)').matches

/** What this browser shows, and how: units, shift, folded-away panes, the gauged edge. */
export const useView = defineStore('view', () => {
  const units = kept<Units>('kaigata.units', 'mm')
  const isRackShown = kept('kaigata.rack', true)
  const isSlipShown = kept('kaigata.slip', true)
  const inches = kept<InchStyle>('kaigata.inches', 'decimal')
  watch(inches, showInchesAs, { immediate: true, flush: 'sync' })
  const shift = kept<Shift>('kaigata.shift', isDarkWanted() ? 'night' : 'day')
  const paper = kept('kaigata.paper', '')
  const inSequence = kept('kaigata.in-sequence', false)
  const section = ref(1)
  const edge = ref<Edge>('left')
  const fold = ref(1)
  const isFolding = ref(false)
  const isHelpShown = ref(false)
  /** What drawings are written in: inches as they are shown, in decimals or to a part. */
  const drawnIn = computed(() => (units.value === 'in' && inches.value !== 'decimal' ? `in-${String(inches.value)}` : units.value))
  const isMm = computed(() => units.value === 'mm')
  return { units, inches, drawnIn, shift, isMm, paper, inSequence, section, isRackShown, isSlipShown, edge, fold, isFolding, isHelpShown }
})
