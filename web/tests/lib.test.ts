import { afterEach, describe, expect, it, vi } from 'vitest'

import { placeMatrix } from '../src/drawing/placeMatrix'
import { counted } from '../src/lib/counted'
import { day, duration, fraction, grouped, length, lengthList, readLength, readLengthList, sheetSize, showInchesAs } from '../src/lib/length'
import { overlap, placeLabels } from '../src/lib/labels'

describe('lengths', () => {
  it.each([
    ['12.7', 'mm', 12.7],
    ['12,7 mm', 'in', 12.7],
    ['1/2 in', 'mm', 12.7],
    ['1 7/16"', 'mm', 36.5125],
    ['2', 'in', 50.8],
    ['60 - 2*1.5', 'mm', 57],
    ['60 - 2*1.5', 'in', 1447.8],
    ['1 in + 3 mm', 'mm', 28.4],
    ['(1 1/2 + 1/4) in', 'mm', 44.45],
    ['2 * (10 mm - 4)', 'mm', 12],
    ['5 cm / 2', 'in', 25],
    ['60/2.5', 'mm', 24],
  ] as const)('reads %s in %s', (text, units, mm) => {
    expect(readLength(text, units)).toBeCloseTo(mm, 9)
  })

  it.each(['', 'six', '1/0', '-3', '4 ft', '2 mm * 3 mm', '(3', '3 +', '1 / (2 mm)'])('does not read %s', (text) => {
    expect(readLength(text, 'mm')).toBeNull()
  })

  it('shows what it reads', () => {
    expect(length(25.4, 'in')).toBe('1.000')
    expect(grouped(1234567.8, 1)).toBe('1\u2009234\u2009567.8')
    expect([fraction(1.4375, 16), fraction(0.5, 64), fraction(2, 16), fraction(0.99, 16)]).toEqual(['1 7/16', '1/2', '2', '1'])
    expect(duration(3725)).toBe('1 h 02 min')
  })
})

describe('several lengths in one text', () => {
  afterEach(() => showInchesAs('decimal'))

  it.each([
    ['1.5 2  3', 'mm', [1.5, 2, 3]],
    ['1/16 1 7/16  2', 'in', [1.5875, 36.5125, 50.8]],
    ['  ', 'mm', []],
  ] as const)('reads %s in %s', (text, units, all) => {
    expect(readLengthList(text, units, [])).toEqual(all.map((mm) => expect.closeTo(mm, 9) as number))
  })

  it('does not read what holds no length', () => {
    expect(readLengthList('1.5 two 3', 'mm', [])).toBeNull()
  })

  it.each(['decimal', 16, 64] as const)('leaves as it is what was not written over, inches as %s', (style) => {
    showInchesAs(style)
    const radii = [0.8, 1.5, 10 / 3]
    expect(readLengthList(`${lengthList(radii, 'in')}  2`, 'in', radii)).toEqual([...radii, 50.8])
  })
})

describe('what is shown', () => {
  it('of a sheet is its size as it is called', () => {
    expect([sheetSize(2500, 1250, 'mm'), sheetSize(2438.4, 1219.2, 'mm')]).toEqual(['2500 × 1250', '2438.4 × 1219.2'])
    expect([sheetSize(2500, 1250, 'in'), sheetSize(2438.4, 1219.2, 'in')]).toEqual(['98.43 × 49.21', '96 × 48'])
  })

  it('is no zero below zero', () => {
    expect([length(-0.001, 'mm'), length(-0.01, 'mm'), length(-0.001, 'in')]).toEqual(['0.00', '-0.01', '0.000'])
  })

  it.each(['America/Denver', 'UTC', 'Asia/Tokyo'])('is the day that was set, in %s', (zone) => {
    vi.stubEnv('TZ', zone)
    expect([day('2026-12-01'), day('2026-12-01T12:30:00Z'), day(null)]).toEqual(['1 DEC', '1 DEC', ''])
    vi.unstubAllEnvs()
  })
})

it('counts in words that fit the number', () => {
  expect([counted(0, 'sheet'), counted(1, 'sheet'), counted(2, 'sheet')]).toEqual(['0 sheets', '1 sheet', '2 sheets'])
  expect([counted(1, 'part uses', 'parts use'), counted(7, 'part uses', 'parts use')]).toEqual(['1 part uses', '7 parts use'])
})

describe('labels', () => {
  it('never lie on each other or on what is taken', () => {
    const wishes = Array.from({ length: 12 }, () => ({ places: Array.from({ length: 20 }, (_, i) => ({ x: i * 30, y: 50 })), w: 28, h: 12 }))
    const taken = [{ x: 100, y: 40, w: 50, h: 30 }]
    const boxes = placeLabels(wishes, taken).flatMap((at) => (at === null ? [] : [{ x: at * 30 - 14, y: 44, w: 28, h: 12 }]))
    const all = [...taken, ...boxes]
    expect(boxes).toHaveLength(12)
    expect(all.every((a, i) => all.every((b, j) => i === j || !overlap(a, b)))).toBe(true)
  })

  it('are left out where there is no room', () => {
    const wish = { places: [{ x: 0, y: 0 }], w: 10, h: 10 }
    expect(placeLabels([wish, wish], [])).toEqual([0, null])
  })
})

it('a placement mirrors first, then turns, then moves', () => {
  expect(placeMatrix({ x: 10, y: 20, turn: 90, mirrored: true })).toBe('matrix(0 -1 -1 0 10 20)')
})
