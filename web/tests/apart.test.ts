import { describe, expect, it } from 'vitest'

import { gapBetween, laid, ringsOf } from '@/drawing/apart'

const SQUARE = 'M0 0L100 0L100 100L0 100Z'
const FRAME = `${SQUARE}M20 20L20 80L80 80L80 20Z`
const DISC = 'M50 0A50 50 0 0 1 -50 0A50 50 0 0 1 50 0Z'

const at = (path: string, x: number, y: number, turn = 0, mirrored = false) => laid(ringsOf(path), { x, y, turn, mirrored })

describe('contours of a path', () => {
  it('keeps arcs on their circle', () => {
    const [ring] = ringsOf(DISC)
    expect(ring?.length).toBeGreaterThan(40)
    for (const [x, y] of ring ?? []) expect(Math.hypot(x, y)).toBeCloseTo(50, 6)
  })

  it('lays them mirrored, turned and moved', () => {
    const { box } = at('M0 0L100 0L100 40L0 40Z', 10, 20, 90, true)
    expect(box.map((v) => Math.round(v))).toEqual([-30, -80, 10, 20])
  })
})

describe('gaps', () => {
  it('measures between edges and tells the way out', () => {
    const gap = gapBetween(at(SQUARE, 107, 30), at(SQUARE, 0, 0), 20)
    expect(gap?.distance).toBeCloseTo(7, 9)
    expect(gap?.away[0]).toBeCloseTo(1, 9)
  })

  it('measures between round and straight', () => {
    expect(gapBetween(at(DISC, 156, 50), at(SQUARE, 0, 0), 20)?.distance).toBeCloseTo(6, 1)
  })

  it('is nothing beyond the reach and 0 on an overlap', () => {
    expect(gapBetween(at(SQUARE, 130, 0), at(SQUARE, 0, 0), 20)).toBeNull()
    expect(gapBetween(at(SQUARE, 90, 10), at(SQUARE, 0, 0), 20)?.distance).toBe(0)
    expect(gapBetween(at(SQUARE, 0, 0), at(SQUARE, 0, 0), 20)?.distance).toBe(0)
  })

  it('lets a part lie in the hole of another', () => {
    const small = 'M0 0L40 0L40 40L0 40Z'
    expect(gapBetween(at(small, 30, 30), at(FRAME, 0, 0), 20)?.distance).toBeCloseTo(10, 9)
  })
})
