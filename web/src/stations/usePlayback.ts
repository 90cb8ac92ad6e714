import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'

import type { Program } from '@/api/types'

export interface Played {
  /** The pass at work, counted from 0; the count of passes once all is cut. */
  pass: number
  /** What the head does in it. */
  phase: 'rapid' | 'pierce' | 'cut' | 'done'
  /** How far it has come with that, 0 to 1. */
  share: number
}

/** Seconds of each pass, and when each begins. */
export function timesOf(program: Program): { starts: number[]; total: number } {
  const starts: number[] = []
  let total = 0
  for (const pass of program.passes) {
    starts.push(total)
    total += pass.seconds[0] + pass.seconds[1] + pass.seconds[2]
  }
  return { starts, total }
}

/** What the head does a number of seconds into a program. */
export function playedAt(program: Program, starts: readonly number[], at: number): Played {
  let [low, high] = [0, starts.length - 1]
  while (low < high) {
    const middle = Math.ceil((low + high) / 2)
    if ((starts[middle] ?? 0) <= at) low = middle
    else high = middle - 1
  }
  const pass = program.passes[low]
  if (!pass) return { pass: 0, phase: 'done', share: 1 }
  const [rapid, pierce, cut] = pass.seconds
  const since = at - (starts[low] ?? 0)
  if (since < rapid) return { pass: low, phase: 'rapid', share: since / rapid }
  if (since < rapid + pierce) return { pass: low, phase: 'pierce', share: (since - rapid) / pierce }
  if (since < rapid + pierce + cut) return { pass: low, phase: 'cut', share: (since - rapid - pierce) / cut }
  return { pass: low + 1, phase: 'done', share: 1 }
}

/** A program played back: time in seconds, running at a multiple of the machine's own. */
export function usePlayback(program: Ref<Program | undefined>) {
  const at = ref(0)
  const isPlaying = ref(false)
  const speed = ref(10)
  let frame = 0
  let last = 0
  const times = computed(() => (program.value ? timesOf(program.value) : { starts: [], total: 0 }))
  const isShown = computed(() => isPlaying.value || at.value > 0)
  const played = computed(() => (program.value && isShown.value ? playedAt(program.value, times.value.starts, at.value) : undefined))

  function next(now: number): void {
    at.value = Math.min(times.value.total, at.value + ((now - last) / 1000) * speed.value)
    last = now
    if (at.value >= times.value.total) isPlaying.value = false
    if (isPlaying.value) frame = requestAnimationFrame(next)
  }
  function play(): void {
    if (isPlaying.value) {
      isPlaying.value = false
      return
    }
    if (at.value >= times.value.total) at.value = 0
    isPlaying.value = true
    last = performance.now()
    frame = requestAnimationFrame(next)
  }
  /** Go to the beginning of the pass after, or before. */
  function step(by: 1 | -1): void {
    isPlaying.value = false
    const { starts, total } = times.value
    const ahead = by > 0 ? starts.find((s) => s > at.value + 1e-6) : starts.filter((s) => s < at.value - 1e-6).at(-1)
    at.value = ahead ?? (by > 0 ? total : 0)
  }
  function close(): void {
    isPlaying.value = false
    at.value = 0
  }
  watch(() => program.value?.id, close)
  onScopeDispose(() => cancelAnimationFrame(frame))
  return { at, isPlaying, speed, times, played, play, step, close }
}
