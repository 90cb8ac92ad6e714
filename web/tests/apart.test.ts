import { describe, expect, it } from 'vitest'

import { gapBetween, gapWithin, laid, ringsOf } from '@/drawing/apart'

const SQUARE = 'M0 0L100 0L100 100L0 100Z'
const FRAME = `${SQUARE}M20 20L20 80L80 80L80 20Z`
const DISC = 'M50 0A50 50 0 0 1 -50 0A50 50 0 0 1 50 0Z'

const at = (path: string, x: number, y: number, turn = 0, mirrored = false) => laid(ringsOf(path), { x, y, turn, mirrored })

describe('contours of a path', () => {
  const middles = (ring: readonly (readonly [number, number])[]) =>
    ring.flatMap(([x, y], i) => {
      const before = ring.at(i - 1)
      return before ? [[(x + before[0]) / 2, (y + before[1]) / 2] as const] : []
    })

  it('keeps the material of a disc within, and the room of one without', () => {
    const [ring = []] = ringsOf(DISC)
    for (const [x, y] of [...ring, ...middles(ring)]) {
      expect(Math.hypot(x, y)).toBeGreaterThan(50 - 1e-9)
      expect(Math.hypot(x, y)).toBeLessThan(50.03)
    }
    const [hole = []] = ringsOf(DISC, 'room')
    for (const [x, y] of [...hole, ...middles(hole)]) expect(Math.hypot(x, y)).toBeLessThan(50 + 1e-9)
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
    // Never more than it is, wherever on the disc it is measured.
    for (let turn = 0; turn < 6; turn += 0.5) {
      const gap = gapBetween(at(DISC, 156, 50, turn), at(SQUARE, 0, 0), 20)?.distance ?? 0
      expect(gap).toBeLessThan(6 + 1e-9)
      expect(gap).toBeGreaterThan(5.97)
    }
  })

  it('measures to the edge of a remnant from within, and finds what lies out of it', () => {
    const corner = laid(ringsOf('M0 0L600 0L600 200L300 200L300 400L0 400Z', 'room'), { x: 0, y: 0 })
    const gap = gapWithin(at(SQUARE, 193, 250), corner, 20)
    expect(gap?.distance).toBeCloseTo(7, 9)
    expect(gap?.away[0]).toBeCloseTo(-1, 9)
    expect(gapWithin(at(SQUARE, 400, 250), corner, 20)?.distance).toBe(0)
    expect(gapWithin(at(SQUARE, 250, 150), corner, 20)?.distance).toBe(0)
    expect(gapWithin(at(SQUARE, 100, 100), corner, 20)).toBeNull()
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
