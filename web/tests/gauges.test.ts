import { describe, expect, it } from 'vitest'

import type { Blank, RackLine } from '../src/api/types'
import { bendDistance, fromEdge, gaugeTicks } from '../src/drawing/gaugeTicks'
import { byGauge, gaugeText } from '../src/lib/gauges'
import { rulerMarks, rulerStep, secondMarks } from '../src/lib/ruler'

const line = (change: Partial<RackLine>): RackLine =>
  ({ state: 'ready', thickness: 1.5, material: 'galvanised', quantity: 1, width: 100, height: 50, ...change }) as RackLine

describe('gauges', () => {
  it('are named as the trade does', () => {
    expect([gaugeText(2, 'steel'), gaugeText(1.5, 'steel'), gaugeText(1.25, 'steel'), gaugeText(0.1 + 0.2, null)]).toEqual([
      '2.0 steel', '1.5 steel', '1.25 steel', '0.3 no material',
    ])
  })

  it('stay apart on the rack however near they are', () => {
    const groups = byGauge([line({ thickness: 0.75 }), line({ thickness: 0.8 }), line({ thickness: 0.75 }), line({ material: 'steel', thickness: 0.8 })])
    expect(groups.map((g) => [g.name, g.lines.length])).toEqual([['0.75 galvanised', 2], ['0.8 galvanised', 1], ['0.8 steel', 1]])
  })

  it('count their pieces and share one scale that lets the largest fit', () => {
    const [group] = byGauge([line({ quantity: 4, width: 300 }), line({ quantity: 3, height: 920 })])
    expect(group?.pieces).toBe(7)
    expect(group?.scale).toBe(10)
  })

  it('keep what is being read, what is refused and what is left open by themselves', () => {
    const lines = [line({ state: 'reading', thickness: null }), line({ state: 'refused' }), line({ state: 'asking', thickness: null }), line({})]
    expect(byGauge(lines).map((g) => g.name)).toEqual(['Being read', 'Refused', 'Left open', '1.5 galvanised'])
  })
})

const BLANK = {
  width: 200, height: 100,
  bends: [
    { id: 1, line: [[50, 0], [50, 100]], direction: 'up' },
    { id: 2, line: [[0, 80], [200, 80]], direction: 'down' },
  ],
  holes: [
    { at: [30, 20], diameter: 5.5, width: 5.5, height: 5.5 },
    { at: [150, 60], diameter: null, width: 20, height: 8 },
  ],
} as unknown as Blank

describe('the gauge rule', () => {
  it.each([['left', 30], ['right', 170], ['bottom', 20], ['top', 80]] as const)('measures from the %s edge', (edge, mm) => {
    expect(fromEdge(BLANK, edge, [30, 20])).toBe(mm)
  })

  it('measures only bends that run along the edge', () => {
    const [standing, level] = BLANK.bends as [Blank['bends'][number], Blank['bends'][number]]
    expect([bendDistance(BLANK, 'left', standing), bendDistance(BLANK, 'right', standing), bendDistance(BLANK, 'top', standing)]).toEqual([50, 150, null])
    expect([bendDistance(BLANK, 'top', level), bendDistance(BLANK, 'bottom', level), bendDistance(BLANK, 'left', level)]).toEqual([20, 80, null])
  })

  it('has a tick for each bend along it and for every hole, by what it is', () => {
    expect(gaugeTicks(BLANK, 'left', 'mm').map((t) => [t.text, t.at, t.direction])).toEqual([
      ['bend 1', 50, 'up'], ['hole ø5.50', 30, ''], ['cutout 20.00 × 8.00', 150, ''],
    ])
    expect(gaugeTicks(BLANK, 'left', 'in').map((t) => t.text)).toEqual(['bend 1', 'hole ø0.217', 'cutout 0.787 × 0.315'])
  })
})

describe('a ruler', () => {
  it.each([0.01, 0.05, 0.2, 1, 3.7, 20])('at %d px a mm has room for its numbers and steps a hand can count', (px) => {
    const step = rulerStep(px, 56, 'mm')
    expect(step * px).toBeGreaterThanOrEqual(Math.min(56, 5000 * px))
    expect([1, 2, 5]).toContain(step / 10 ** Math.floor(Math.log10(step)))
  })

  it('ends at its length and numbers whole steps from 0', () => {
    const marks = rulerMarks(1000, 0.5, 'mm')
    expect(marks.at(-1)?.at).toBe(1000)
    expect(marks.filter((m) => m.figure).map((m) => [m.at, m.figure])).toEqual([0, 200, 400, 600, 800, 1000].map((at) => [at, String(at)]))
  })

  it('counts inches where inches are shown, and parts of them where it is near', () => {
    const [far, near] = [rulerMarks(2540, 0.27, 'in'), rulerMarks(25.4, 10, 'in')]
    expect(far.filter((m) => m.figure).map((m) => [m.at / 25.4, m.figure])).toEqual([0, 10, 20, 30, 40, 50, 60, 70, 80, 90, 100].map((at) => [at, String(at)]))
    expect(near.filter((m) => m.figure).map((m) => m.figure)).toEqual(['0', '0.25', '0.5', '0.75', '1'])
    expect(near).toHaveLength(17)
  })

  it.each([1, 8, 10, 30, 45, 300, 7200, 90000])('of %d seconds numbers them evenly, as they are, with room between', (span) => {
    const marks = secondMarks(span, 640 / span)
    expect(marks.map((m) => Number(m.figure))).toEqual(marks.map((m) => expect.closeTo(m.at, 9)))
    expect(marks.length).toBeGreaterThan(2)
    expect(marks.length).toBeLessThan(9)
    expect(marks.at(-1)?.at).toBeLessThanOrEqual(span)
  })
})
