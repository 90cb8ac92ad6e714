import { describe, expect, it } from 'vitest'

import type { Blank } from '../src/api/types'
import { bendLabels, bendNote } from '../src/drawing/bendLabels'
import { overlap, type Box } from '../src/lib/labels'

type Bend = Blank['bends'][number]

const bend = (id: number, line: [[number, number], [number, number]]): Bend =>
  ({ id, line, angle: 90, inside_radius: 2, direction: 'up' }) as unknown as Bend

const blankOf = (bends: Bend[], holes: object[] = [], findings: object[] = []): Blank =>
  ({ width: 400, height: 300, bends, holes, findings }) as unknown as Blank
const toScreen = ([x, y]: readonly [number, number]) => ({ x: x * 2, y: 600 - y * 2 })

const box = (p: { x: number; y: number }, w: number, h: number): Box => ({ x: p.x - w / 2, y: p.y - h / 2, w, h })

/** What the labels cover on the screen, the notes along their lines. */
function boxes(blank: Blank): Box[] {
  return bendLabels(blank, toScreen, 'mm').flatMap(({ mark, note, bend: { line } }) => {
    const isLevel = line[0][1] === line[1][1]
    const around = box(mark, 22, 22)
    if (!note) return [around]
    return [around, isLevel ? box(note, note.width, 16) : box(note, 16, note.width)]
  })
}

describe('a note', () => {
  it('says angle and radius and no more digits than they have', () => {
    const one = { angle: 90, inside_radius: 2 } as unknown as Bend
    const other = { angle: 45.5004, inside_radius: 12.7 } as unknown as Bend
    expect(bendNote(one, 'mm')).toBe('90° R2')
    expect(bendNote(other, 'in')).toBe('45.5° R0.5')
  })
})

describe('labels of bends', () => {
  const crowded = blankOf([
    ...Array.from({ length: 9 }, (_, i) => bend(i + 1, [[30 + i * 15, 0], [30 + i * 15, 300]])),
    ...Array.from({ length: 4 }, (_, i) => bend(i + 10, [[200, 20 + i * 60], [400, 20 + i * 60]])),
  ])

  it('never lie on each other', () => {
    const all = boxes(crowded)
    expect(all.length).toBeGreaterThan(13)
    expect(all.every((a, i) => all.every((b, j) => i === j || !overlap(a, b)))).toBe(true)
  })

  it('stand on their own line', () => {
    for (const { bend: { line }, mark } of bendLabels(crowded, toScreen, 'mm')) {
      const [a, b] = [toScreen(line[0]), toScreen(line[1])]
      const apart = Math.abs((b.x - a.x) * (mark.y - a.y) - (b.y - a.y) * (mark.x - a.x)) / Math.hypot(b.x - a.x, b.y - a.y)
      expect(apart).toBeLessThan(1e-6)
    }
  })

  it('keep off the marks of findings, but not of notes', () => {
    const near = [bend(1, [[100, 0], [100, 300]]), bend(2, [[104, 0], [104, 300]])]
    const finding = { at: [104, 150], level: 'warning' }
    const around = box(toScreen([104, 150]), 20, 20)
    const isHit = (level: string) => boxes(blankOf(near, [], [{ ...finding, level }])).some((b) => overlap(b, around))
    expect([isHit('warning'), isHit('error'), isHit('note')]).toEqual([false, false, true])
  })

  it('keep off holes', () => {
    const hole = { at: [100, 96], width: 60, height: 40 }
    const blank = blankOf([bend(1, [[100, 0], [100, 300]])], [hole])
    const around = box(toScreen([100, 96]), 120, 80)
    expect(boxes(blank).some((b) => overlap(b, around))).toBe(false)
  })

  it('are read from left to right and from below', () => {
    const both = blankOf([bend(1, [[300, 50], [20, 50]]), bend(2, [[350, 280], [350, 20]])])
    const turns = bendLabels(both, toScreen, 'mm').map(({ note }) => note?.turn)
    expect(turns).toEqual([0, -90])
  })

  it('leave the note out where a bend is too short for it', () => {
    const [label] = bendLabels(blankOf([bend(1, [[100, 100], [100, 130]])]), toScreen, 'mm')
    expect(label?.note).toBeNull()
    expect(label?.mark).toBeDefined()
  })
})
