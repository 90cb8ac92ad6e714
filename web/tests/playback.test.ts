import { describe, expect, it } from 'vitest'

import type { Program } from '@/api/types'
import { playedAt, timesOf } from '@/stations/usePlayback'

const pass = (seconds: [number, number, number]): Program['passes'][number] => ({
  kind: 'cut', goes_on: false, way: [[0, 0]], part: 'a', copy: 1, name: 'outer', pierce: [0, 0], entry: [0, 0], end: [0, 0], path: '', lead: '', seconds, length: 1,
})
const program: Program = { id: 1, number: 1, rapids: '', passes: [pass([1, 2, 3]), pass([0, 1, 4])] }

describe('playing a program back', () => {
  it('adds up the seconds of each pass', () => {
    expect(timesOf(program)).toEqual({ starts: [0, 6], total: 11 })
  })

  it.each([
    [0.5, { pass: 0, phase: 'rapid', share: 0.5 }],
    [2, { pass: 0, phase: 'pierce', share: 0.5 }],
    [4.5, { pass: 0, phase: 'cut', share: 0.5 }],
    [6, { pass: 1, phase: 'pierce', share: 0 }],
    [9, { pass: 1, phase: 'cut', share: 0.5 }],
    [11, { pass: 2, phase: 'done', share: 1 }],
  ])('knows what the head does after %d s', (at, played) => {
    expect(playedAt(program, timesOf(program).starts, at)).toEqual(played)
  })
})
