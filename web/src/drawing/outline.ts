import type { Blank } from '@/api/types'

export type Point = [number, number]

/** A straight edge of an outline. */
export interface Edge {
  a: Point
  b: Point
}

/** The corners and straight edges of an outline drawn as an SVG path of lines and arcs. */
export function readOutline(path: string): { corners: Point[]; edges: Edge[] } {
  const corners: Point[] = []
  const edges: Edge[] = []
  let at: Point = [0, 0]
  let first: Point = [0, 0]
  for (const [, word = '', rest = ''] of path.matchAll(/([MLAZ])([^MLAZ]*)/g)) {
    const n = rest.trim().split(/[\s,]+/).filter(Boolean).map(Number)
    const to: Point = word === 'Z' ? first : [n.at(-2) ?? 0, n.at(-1) ?? 0]
    if (word === 'M') first = to
    else if (word !== 'A' && Math.hypot(to[0] - at[0], to[1] - at[1]) > 1e-6) edges.push({ a: at, b: to })
    if (word !== 'Z') corners.push(to)
    at = to
  }
  return { corners, edges }
}

/** Everything of a blank that measuring snaps to: corners, middles of edges, centres of holes. */
export function snapPoints(blank: Blank): Point[] {
  const outlines = [blank.outer, ...blank.holes.map((h) => h.path)].map(readOutline)
  return [
    ...outlines.flatMap((o) => o.corners),
    ...outlines.flatMap((o) => o.edges.map((e): Point => [(e.a[0] + e.b[0]) / 2, (e.a[1] + e.b[1]) / 2])),
    ...blank.holes.map((h): Point => [h.at[0], h.at[1]]),
    ...blank.bends.flatMap((b): Point[] => [[...b.line[0]] as Point, [...b.line[1]] as Point]),
  ]
}

/** The point nearest to a place, or the nearest place on an edge, within a reach; else the place. */
export function snapped(place: Point, points: readonly Point[], edges: readonly Edge[], reach: number): Point {
  const near = closest(place, points)
  if (near && distance(near, place) <= reach) return near
  const foot = closest(place, edges.map((e) => onEdge(place, e)))
  return foot && distance(foot, place) <= reach ? foot : place
}

function closest(place: Point, points: readonly Point[]): Point | null {
  let best: Point | null = null
  for (const p of points) if (!best || distance(p, place) < distance(best, place)) best = p
  return best
}

export function distance(p: Point, q: Point): number {
  return Math.hypot(p[0] - q[0], p[1] - q[1])
}

function onEdge(p: Point, e: Edge): Point {
  const [dx, dy] = [e.b[0] - e.a[0], e.b[1] - e.a[1]]
  const t = Math.min(1, Math.max(0, ((p[0] - e.a[0]) * dx + (p[1] - e.a[1]) * dy) / (dx * dx + dy * dy)))
  return [e.a[0] + t * dx, e.a[1] + t * dy]
}

/** How far an edge leans from the x axis, degrees in (-90, 90]. */
export function lean(e: Edge): number {
  const turn = (Math.atan2(e.b[1] - e.a[1], e.b[0] - e.a[0]) * 180) / Math.PI
  if (turn > 90) return turn - 180
  return turn <= -90 ? turn + 180 : turn
}
