import type { Bend, Blank } from '@/api/types'
import { length, type Units } from '@/lib/length'
import { placeLabels, type Box } from '@/lib/labels'

type ToScreen = (p: readonly [number, number]) => { x: number; y: number }

export interface BendLabel {
  bend: Bend
  mark: { x: number; y: number }
  /** The note beside the number; null where there is no room for it. */
  note: { x: number; y: number; turn: number; text: string; width: number } | null
}

const MARK = 22
/** px that the triangle of a finding takes up at its place. */
const FINDING = 20
const TRIANGLE = 16
const LETTER = 7.25
const SHARES = [0.32, 0.5, 0.68, 0.2, 0.8, 0.41, 0.59]

export function bendNote(bend: Bend, units: Units): string {
  return `${trim(bend.angle)}° R${trim(Number(length(bend.inside_radius, units, 3)))}`
}

function trim(value: number): string {
  return String(Math.round(value * 1000) / 1000)
}

/** Where each bend's number and note stand so that nothing lies on anything, screen px. */
export function bendLabels(blank: Blank, toScreen: ToScreen, units: Units): BendLabel[] {
  const holes: Box[] = blank.holes.map((hole) => {
    const a = toScreen([hole.at[0] - hole.width / 2, hole.at[1] + hole.height / 2])
    const b = toScreen([hole.at[0] + hole.width / 2, hole.at[1] - hole.height / 2])
    return { x: a.x, y: a.y, w: b.x - a.x, h: b.y - a.y }
  })
  const findings: Box[] = blank.findings.flatMap((f) => {
    if (!f.at || f.level === 'note') return []
    const p = toScreen(f.at)
    return [{ x: p.x - FINDING / 2, y: p.y - FINDING / 2, w: FINDING, h: FINDING }]
  })
  const taken = [...holes, ...findings]
  const rows = blank.bends.map((bend) => {
    const [a, b] = [toScreen(bend.line[0]), toScreen(bend.line[1])]
    const run = Math.hypot(b.x - a.x, b.y - a.y)
    const isLevel = Math.abs(b.x - a.x) >= Math.abs(b.y - a.y)
    const from = (isLevel ? a.x <= b.x : a.y >= b.y) ? a : b
    const way = from === a ? { x: (b.x - a.x) / run, y: (b.y - a.y) / run } : { x: (a.x - b.x) / run, y: (a.y - b.y) / run }
    const at = (s: number) => ({ x: from.x + way.x * run * s, y: from.y + way.y * run * s })
    const text = bendNote(bend, units)
    return { bend, run, way, at, isLevel, text, width: TRIANGLE + text.length * LETTER + 4 }
  })
  const marks = placeLabels(
    rows.map((row) => ({ places: SHARES.map(row.at), w: MARK, h: MARK })),
    taken,
  )
  const shares = marks.map((at) => SHARES[at ?? 0] ?? 0.5)
  const markBoxes = rows.map((row, i) => {
    const p = row.at(shares[i] ?? 0.5)
    return { x: p.x - MARK / 2, y: p.y - MARK / 2, w: MARK, h: MARK }
  })
  const places = rows.map((row, i) => {
    const half = row.width / 2
    const ahead = (MARK / 2 + half + 2) / row.run
    const share = shares[i] ?? 0.5
    // The note stays on its line, clear of the outline at its ends.
    const fits = (s: number) => s * row.run > half + 5 && (1 - s) * row.run > half + 5
    return [share + ahead, share - ahead].filter(fits).map(row.at)
  })
  const notes = placeLabels(
    rows.map((row, i) => ({
      places: places[i] ?? [],
      w: row.isLevel ? row.width : 16,
      h: row.isLevel ? 16 : row.width,
    })),
    [...taken, ...markBoxes],
  )
  return rows.map((row, i) => {
    const at = notes[i]
    const place = at === null || at === undefined ? undefined : places[i]?.[at]
    const turn = (Math.atan2(row.way.y, row.way.x) * 180) / Math.PI
    return {
      bend: row.bend,
      mark: row.at(shares[i] ?? 0.5),
      note: place ? { ...place, turn, text: row.text, width: row.width } : null,
    }
  })
}
