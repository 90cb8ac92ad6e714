import { describe, expect, it } from 'vitest'

import { amountOf, nearestPlace, toleranceOf, wayOf, type Place, type Size } from '../src/drawing/chosenSizes'

const place = (x: number, y: number, kind: Place['kind'] = 'corner', radius = 0): Place => ({ place: [x, y], at: [x / 2 + 40, y / 2 + 60], kind, radius })
const PLACES = [place(0, 0), place(10, 0), place(30, 40, 'hole', 4), place(50, 40, 'arc', 6)]
const size = (way: Size['way'], start: [number, number], end: [number, number], more: Partial<Size> = {}): Size => ({ way, start, end, ...more })

describe('places on a sheet', () => {
  it.each([
    [[41, 60], false, PLACES[0]],
    [[44, 61], false, PLACES[1]],
    [[44, 61], true, null],
    [[54, 81], true, PLACES[2]],
    [[140, 160], false, null],
  ] as const)('%j takes what is nearest and within reach', (at, isRound, found) => {
    expect(nearestPlace(PLACES, at, 5, isRound)).toBe(found)
  })
})

describe('how much a size is', () => {
  it.each([
    [size('level', [0, 0], [30, 40]), 30],
    [size('upright', [30, 40], [0, 0]), 40],
    [size('straight', [0, 0], [30, 40]), 50],
    [size('round', [30, 40], [30, 40]), 8],
    [size('round', [50, 40], [50, 40]), 6],
    [size('round', [51, 40], [51, 40]), null],
  ])('%j', (given, mm) => {
    expect(amountOf(given, PLACES)).toBe(mm)
  })
})

describe('the way of a size', () => {
  const [a, right, up] = [place(0, 0), place(9, 5), place(-5, -9)]
  it('is as its ends lie where it may be across or upwards', () => {
    expect([wayOf('square', a, right), wayOf('square', a, up), wayOf('straight', a, up)]).toEqual(['level', 'upright', 'straight'])
  })
})

describe('a tolerance', () => {
  it.each([
    [{}, ''],
    [{ upper: 0.1, lower: -0.1 }, '±0.1'],
    [{ upper: 0.2, lower: -0.1 }, '+0.2 −0.1'],
    [{ upper: 0, lower: -0.3 }, '0 −0.3'],
    [{ upper: 0.3, lower: 0.1 }, '+0.3 +0.1'],
    [{ upper: null, lower: null }, ''],
  ])('%j is told as %j', (given, said) => {
    expect(toleranceOf(size('level', [0, 0], [1, 0], given), String)).toBe(said)
  })
})
