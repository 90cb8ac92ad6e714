import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import type { Run } from '@/api/types'

const WORDS: Record<Run['state'], string> = { queued: 'waiting for a worker', running: 'at work', done: 'done', stopped: 'stopped', failed: 'failed' }

/** What a background run's state means for a screen. */
export function useRun(run: MaybeRefOrGetter<Run | null | undefined>) {
  const state = computed(() => toValue(run)?.state)
  const isOpen = computed(() => state.value === 'queued' || state.value === 'running')
  const hasFailed = computed(() => state.value === 'failed')
  const stale = computed(() => toValue(run)?.stale ?? [])
  const word = computed(() => (state.value ? WORDS[state.value] : ''))
  return { state, isOpen, hasFailed, stale, word }
}
