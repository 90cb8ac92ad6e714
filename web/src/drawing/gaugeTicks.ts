import type { Blank } from '@/api/types'
import { length, type Units } from '@/lib/length'
import type { Edge } from '@/stores/view'

export interface Tick {
  key: string
  /** Distance from the chosen edge, mm. */
  at: number
  bend: number | null
  direction: string
  text: string
}

/** How far a point lies from the chosen edge of a blank, mm. */
export function fromEdge(blank: Blank, edge: Edge, [x, y]: readonly [number, number]): number {
  return { left: x, right: blank.width - x, bottom: y, top: blank.height - y }[edge]
}

function isAcross(edge: Edge): boolean {
  return edge === 'left' || edge === 'right'
}

/** Distance from the chosen edge to a bend that runs along it; null for one that does not. */
export function bendDistance(blank: Blank, edge: Edge, bend: Blank['bends'][number]): number | null {
  const [[x0, y0], [x1, y1]] = bend.line
  const isLevel = Math.abs(x1 - x0) >= Math.abs(y1 - y0)
  if (isLevel === isAcross(edge)) return null
  return fromEdge(blank, edge, [(x0 + x1) / 2, (y0 + y1) / 2])
}

/** The ticks of the gauge rule: bends that run along the edge, and every hole's middle. */
export function gaugeTicks(blank: Blank, edge: Edge, units: Units): Tick[] {
  const bends = blank.bends.flatMap((bend) => {
    const at = bendDistance(blank, edge, bend)
    return at === null ? [] : [{ key: `b${bend.id}`, at, bend: bend.id, direction: bend.direction, text: `bend ${bend.id}` }]
  })
  const holes = blank.holes.map((hole, i) => ({
    key: `h${i}`,
    at: fromEdge(blank, edge, hole.at),
    bend: null,
    direction: '',
    text: hole.diameter ? `hole ø${length(hole.diameter, units)}` : `cutout ${length(hole.width, units)} × ${length(hole.height, units)}`,
  }))
  return [...bends, ...holes]
}
