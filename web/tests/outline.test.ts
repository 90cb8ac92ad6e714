import { describe, expect, it } from 'vitest'

import type { Blank } from '../src/api/types'
import { lean, readOutline, snapped, snapPoints, type Edge } from '../src/drawing/outline'

const PLATE = 'M0 0L100 0L100 60L0 60Z'
const SLOT = 'M40 20L60 20A10 10 0 0 1 60 40L40 40A10 10 0 0 1 40 20Z'

const edge = (...[x0, y0, x1, y1]: [number, number, number, number]): Edge => ({ a: [x0, y0], b: [x1, y1] })

describe('an outline that is read', () => {
  it('has its corners and closes back to the first', () => {
    const { corners, edges } = readOutline(PLATE)
    expect(corners).toEqual([[0, 0], [100, 0], [100, 60], [0, 60]])
    expect(edges).toHaveLength(4)
    expect(edges.at(-1)).toEqual({ a: [0, 60], b: [0, 0] })
  })

  it('has no straight edge where an arc runs, nor one of no length', () => {
    const { edges } = readOutline(SLOT)
    expect(edges.map((e) => e.a[1])).toEqual([20, 40])
    expect(readOutline('M0 0L0 0L10 0L0 0Z').edges).toHaveLength(2)
  })
})

describe('snapping', () => {
  const { corners, edges } = readOutline(PLATE)

  it('takes a corner before the edge it lies on', () => {
    expect(snapped([98, 1], corners, edges, 5)).toEqual([100, 0])
  })

  it('takes the foot on the nearest edge where no corner is near', () => {
    expect(snapped([50, 3], corners, edges, 5)).toEqual([50, 0])
    expect(snapped([103, 30], corners, edges, 5)).toEqual([100, 30])
  })

  it('stays where nothing is in reach', () => {
    expect(snapped([50, 30], corners, edges, 5)).toEqual([50, 30])
    expect(snapped([7, 8], [], [], 5)).toEqual([7, 8])
  })

  it('knows corners, middles of edges, holes and ends of bends', () => {
    const blank = { outer: PLATE, holes: [{ path: SLOT, at: [50, 30] }], bends: [{ line: [[20, 0], [20, 60]] }] } as unknown as Blank
    const points = snapPoints(blank)
    for (const p of [[100, 60], [50, 0], [50, 30], [20, 60], [50, 40]]) expect(points).toContainEqual(p)
  })
})

describe('how an edge leans', () => {
  it.each([
    [edge(0, 0, 10, 0), 0],
    [edge(10, 0, 0, 0), 0],
    [edge(0, 0, 0, 10), 90],
    [edge(0, 10, 0, 0), 90],
    [edge(0, 0, 10, 10), 45],
    [edge(10, 10, 0, 0), 45],
    [edge(0, 10, 10, 0), -45],
  ])('is the same whichever way it runs', (e, degrees) => {
    expect(lean(e)).toBeCloseTo(degrees, 9)
  })
})
