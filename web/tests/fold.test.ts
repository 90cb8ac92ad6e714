import { describe, expect, it } from 'vitest'

import type { Piece } from '../src/api/types'
import { foldPoint, inSequence, opened, roll } from '../src/folded/fold'

// A 2 mm sheet bent up by 90° at inside radius 2 with K 0.5: allowance π/2 · 3, from x = 50 on.
const joint = { start: [50, 0], across: [1, 0], allowance: (Math.PI / 2) * 3, angle: Math.PI / 2, is_up: true, neutral: -1 } as const
const piece = (parent: number | null, bend: number | null): Piece => ({
  panel: bend === null ? 1 : null, bend, parent, triangles: [], outlines: [], creases: [], joint: bend === null ? null : { ...joint, start: [50, 0], across: [1, 0] },
})

describe('rolling a bend', () => {
  it('leaves a flat part flat', () => {
    expect(roll([80, 5, 0], { ...joint, start: [50, 0], across: [1, 0] }, 0)).toEqual([80, 5, 0])
  })

  it('stands a flange up behind its radius', () => {
    const [x, y, z] = roll([50 + joint.allowance + 20, 7, 0], { ...joint, start: [50, 0], across: [1, 0] }, 1)
    // By hand: the inner face turns about (50, 2) with radius 2, then runs 20 straight up.
    expect([x, y, z].map((v) => Number(v.toFixed(9)))).toEqual([52, 7, 22])
  })

  it('keeps the neutral line as long as the blank is', () => {
    const half = { ...joint, start: [50, 0] as [number, number], across: [1, 0] as [number, number] }
    const points = Array.from({ length: 201 }, (_, i) => roll([50 + (joint.allowance * i) / 200, 0, -1], half, 0.6))
    const length = points.slice(1).reduce((sum, p, i) => sum + Math.hypot(p[0] - (points[i]?.[0] ?? 0), p[2] - (points[i]?.[2] ?? 0)), 0)
    expect(length).toBeCloseTo(joint.allowance, 4)
  })

  it('turns about the edge of a sharp bend that takes nothing', () => {
    const sharp = { ...joint, start: [50, 0] as [number, number], across: [1, 0] as [number, number], allowance: 0, neutral: 0 }
    const [x, y, z] = roll([70, 7, -2], sharp, 1)
    expect([x, y, z].map((v) => Number(v.toFixed(9)))).toEqual([52, 7, 20])
  })

  it('folds a piece along with all it hangs on', () => {
    const pieces = [piece(null, null), piece(0, 1), piece(1, null)]
    const [x, , z] = foldPoint(pieces, 2, [50 + joint.allowance, 0, 0], 1)
    expect([x, z].map((v) => Number(v.toFixed(9)))).toEqual([52, 2])
  })
})

describe('a bend that is opened', () => {
  const pieces = [piece(null, null), piece(0, 1), piece(1, null)]
  const tip = (share: Parameters<typeof foldPoint>[3]) => foldPoint(pieces, 2, [50 + joint.allowance + 20, 0, 0], share)

  it('turns less than the part has it, and no other bend does', () => {
    expect(tip(opened(1, new Map([[1, 0.5]])))).toEqual(tip(0.5))
    expect(tip(opened(1, new Map([[2, 0.5]])))).toEqual(tip(1))
    expect(opened(0.7, new Map())).toBe(0.7)
  })

  it('opens while the part is folded bend by bend too', () => {
    const order = new Map([[1, 0]])
    expect(tip(opened(inSequence(order, 1), new Map([[1, 0]])))).toEqual(tip(0))
  })
})
