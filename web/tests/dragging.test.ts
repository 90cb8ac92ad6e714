import { beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'

import type { Nest } from '@/api/types'
import { useDragging } from '@/drawing/useDragging'

const SQUARE = 'M0 0L100 0L100 100L0 100Z'
const DISC = 'M80 0A80 80 0 0 1 -80 0A80 80 0 0 1 80 0Z'
const PLATE = 'M0 0L1000 0L1000 500L0 500Z'
const REMNANT = 'M0 0L1000 0L1000 200L600 200L600 500L0 500Z'

type Place = [part: string, x: number, y: number]

/** What dragging the first of some placements by pixels comes to, a pixel being a millimetre. */
function dragged(places: Place[], by: [number, number], sheet = PLATE) {
  const placements = places.map(([part, x, y]) => ({ part, copy: 1, x, y, turn: 0, mirrored: false }))
  const nest = {
    spacing: 5,
    margin: 10,
    parts: [{ id: 'square', path: SQUARE }, { id: 'other', path: SQUARE }, { id: 'disc', path: DISC }],
    stock: [{ id: 's', path: sheet, width: 1000, height: 500 }],
  } as unknown as Nest
  const given = { nest, sheet: { sheet: 's', placements } as unknown as Nest['sheets'][number], picked: [`${places[0]?.[0]} 1`], scale: 1 }
  const scope = effectScope()
  const { drag, begin } = scope.run(() => useDragging(() => given, () => undefined)) ?? { drag: undefined, begin: undefined }
  begin?.({ clientX: 0, clientY: 0 } as PointerEvent)
  window.dispatchEvent(Object.assign(new Event('pointermove'), { clientX: by[0], clientY: -by[1] }))
  const done = drag?.value
  scope.stop()
  if (!done) throw new Error('nothing was dragged')
  return done
}

beforeEach(() => vi.stubGlobal('window', new EventTarget()))

describe('a part that is dragged', () => {
  it('goes where the hand goes, and tells what it lies on', () => {
    expect(dragged([['square', 300, 200], ['other', 600, 200]], [50, 20])).toEqual({ by: [50, 20], isFree: true })
    expect(dragged([['square', 300, 200], ['other', 600, 200]], [230, 20]).isFree).toBe(false)
    expect(dragged([['square', 300, 200]], [690, 0]).isFree).toBe(false)
  })

  it('sticks to a round neighbour at no less than the spacing, wherever it touches', () => {
    for (let up = -60; up <= 60; up += 7) {
      const { by, isFree } = dragged([['square', 300, 200], ['disc', 600, 250]], [115, up])
      // The nearest of the square's right edge to the disc's middle, by hand.
      const y = Math.min(Math.max(250, 200 + by[1]), 300 + by[1])
      const gap = Math.hypot(600 - (400 + by[0]), 250 - y) - 80
      expect(gap).toBeGreaterThan(5 - 1e-6)
      expect(gap).toBeLessThan(5.06)
      expect(isFree).toBe(true)
    }
  })

  it('sticks to the margin and to a neighbour beside it at once', () => {
    const { by, isFree } = dragged([['square', 300, 200], ['other', 10, 10]], [-181, -187])
    expect([300 + by[0], 200 + by[1]]).toEqual([expect.closeTo(115, 6), expect.closeTo(10, 6)])
    expect(isFree).toBe(true)
  })

  it('sticks to the margin of a remnant, and is not free beyond it', () => {
    const { by, isFree } = dragged([['square', 300, 300]], [194, 50], REMNANT)
    expect(300 + by[0] + 100).toBeCloseTo(590, 6)
    expect(isFree).toBe(true)
    expect(dragged([['square', 300, 300]], [400, 50], REMNANT).isFree).toBe(false)
  })
})
