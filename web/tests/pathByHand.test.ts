import { describe, expect, it } from 'vitest'

import { alongWay, orderNumbers } from '@/drawing/programPath'
import type { Program } from '@/api/types'
import { contoursOf, movedTo, placesFor, type Key } from '@/stations/contourOrder'

const KEYS: Key[] = [['a', 1, 'hole 1'], ['a', 1, 'hole 2'], ['a', 1, 'outer'], ['b', 1, 'hole 1'], ['b', 1, 'outer']]
const names = (keys: Key[]) => keys.map((k) => `${k[0]} ${k[2]}`)
const run = (kind: 'mark' | 'cut' | 'scrap', name: string, goes_on = false): Program['passes'][number] => ({
  kind, goes_on, way: [[0, 0]], part: 'a', copy: 1, name, pierce: [0, 0], entry: [0, 0], end: [0, 0], path: '', lead: '', seconds: [0, 0, 1], length: 1,
})

describe('putting a contour elsewhere in the order', () => {
  it('moves it to the place asked for', () => {
    expect(names(movedTo(KEYS, 3, 0))).toEqual(['b hole 1', 'a hole 1', 'a hole 2', 'a outer', 'b outer'])
  })
  it('keeps an outline behind the last of its holes', () => {
    expect(names(movedTo(KEYS, 2, 0))).toEqual(['a hole 1', 'a hole 2', 'a outer', 'b hole 1', 'b outer'])
  })
  it('keeps a hole before its outline', () => {
    expect(names(movedTo(KEYS, 0, 4))).toEqual(['a hole 2', 'a hole 1', 'a outer', 'b hole 1', 'b outer'])
  })
  it('says which places a contour may take', () => {
    expect(KEYS.map((key) => placesFor(KEYS, key))).toEqual([[0, 1], [0, 1], [2, 4], [0, 3], [4, 4]])
  })
  it('leaves the order as it is for a contour that is not there', () => {
    expect(movedTo(KEYS, 9, 0)).toEqual(KEYS)
  })
})

describe('a program as it is drawn', () => {
  const program: Program = {
    id: 1, number: 1, rapids: '',
    passes: [run('mark', 'number'), run('cut', 'hole 1'), run('cut', 'outer'), run('cut', 'outer', true), run('scrap', 'skeleton')],
  }
  it('numbers contours once, however often joints divide them', () => {
    expect(orderNumbers(program)).toEqual([0, 1, 2, 2, 0])
    expect(contoursOf(program).map((c) => c.name)).toEqual(['hole 1', 'outer'])
  })
})

describe('the head on its way', () => {
  it.each([
    [0, [0, 0]],
    [0.25, [2, 0]],
    [0.5, [4, 0]],
    [0.75, [4, 2]],
    [1, [4, 4]],
  ] as const)('is after %d of it at %s', (share, at) => {
    expect(alongWay([[0, 0], [4, 0], [4, 4]], share)).toEqual(at)
  })
  it('stays where it is when there is no way', () => {
    expect(alongWay([[3, 3], [3, 3]], 0.5)).toEqual([3, 3])
  })
})
