import { useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, watch, type MaybeRefOrGetter } from 'vue'

import type { Run } from '@/api/types'

const WORDS: Record<Run['state'], string> = { queued: 'waiting for a worker', running: 'at work', done: 'done', stopped: 'stopped', failed: 'failed' }

/** What a background run's state means for a screen. */
export function useRun(run: MaybeRefOrGetter<Run | null | undefined>) {
  const queries = useQueryClient()
  const state = computed(() => toValue(run)?.state)
  const isOpen = computed(() => state.value === 'queued' || state.value === 'running')
  const hasFailed = computed(() => state.value === 'failed')
  const stale = computed(() => toValue(run)?.stale ?? [])
  const word = computed(() => (state.value ? WORDS[state.value] : ''))
  // The route card says the same of it, and is else asked more rarely.
  watch(isOpen, () => void queries.invalidateQueries({ queryKey: ['order'] }))
  return { state, isOpen, hasFailed, stale, word }
}
