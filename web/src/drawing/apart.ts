/**
 * How far apart shapes lie while one of them is dragged. Arcs are taken as short lines outside of
 * the material, so that what sticks at the least spacing keeps it; the server judges what is kept by
 * the true shapes.
 */
export type Point = readonly [number, number]
type Ring = Point[]

export interface Shape {
  rings: Ring[]
  box: readonly [number, number, number, number]
}

export interface Placed {
  x: number
  y: number
  turn?: number | undefined
  mirrored?: boolean | undefined
}

/** The turn that one line stands for: 0.03 mm off an arc of 100 mm. */
const STEP = (3 * Math.PI) / 180

/**
 * The contours of an SVG path of lines and arcs as points. They have what they bound to their left:
 * no line lies in it where that is material, nor out of it where it is room for others.
 */
export function ringsOf(path: string, bounds: 'material' | 'room' = 'material'): Ring[] {
  const rings: Ring[] = []
  let ring: Ring = []
  for (const [, word = '', rest = ''] of path.matchAll(/([MLAZ])([^MLAZ]*)/g)) {
    const n = rest.trim().split(/[\s,]+/).filter(Boolean).map(Number)
    const to: Point = [n.at(-2) ?? 0, n.at(-1) ?? 0]
    if (word === 'M') {
      ring = [to]
      rings.push(ring)
    } else if (word === 'L') ring.push(to)
    else if (word === 'A') ring.push(...arc(ring.at(-1) ?? to, to, n[0] ?? 0, n[3] === 1, n[4] === 1, bounds === 'material'))
  }
  return rings
}

/**
 * Points of an arc after its start, by the notes on implementation of the SVG standard (F.6.5): of
 * tangents to it where what it bounds bulges out and is held in, else of chords.
 */
function arc(from: Point, to: Point, radius: number, isLarge: boolean, isPositive: boolean, isHeld: boolean): Ring {
  const [dx, dy] = [(to[0] - from[0]) / 2, (to[1] - from[1]) / 2]
  const half = Math.hypot(dx, dy)
  if (half < 1e-9) return [to]
  const away = Math.sqrt(Math.max(0, radius * radius - half * half)) * (isLarge === isPositive ? -1 : 1)
  const [cx, cy] = [(from[0] + to[0]) / 2 - (dy / half) * away, (from[1] + to[1]) / 2 + (dx / half) * away]
  const start = Math.atan2(from[1] - cy, from[0] - cx)
  let sweep = Math.atan2(to[1] - cy, to[0] - cx) - start
  if (isPositive && sweep <= 0) sweep += 2 * Math.PI
  if (!isPositive && sweep >= 0) sweep -= 2 * Math.PI
  const count = Math.max(1, Math.ceil(Math.abs(sweep) / STEP))
  const r = Math.hypot(from[0] - cx, from[1] - cy)
  const on = (share: number, reach: number): Point => {
    const t = start + sweep * share
    return [cx + reach * Math.cos(t), cy + reach * Math.sin(t)]
  }
  if (isPositive === isHeld) {
    const corner = r / Math.cos(sweep / count / 2)
    return [...Array.from({ length: count }, (_, i) => on((i + 0.5) / count, corner)), to]
  }
  return [...Array.from({ length: count - 1 }, (_, i) => on((i + 1) / count, r)), to]
}

/** Contours laid where a placement says: mirrored, turned, moved. */
export function laid(rings: readonly Ring[], p: Placed): Shape {
  const t = ((p.turn ?? 0) * Math.PI) / 180
  const [c, s, f] = [Math.cos(t), Math.sin(t), p.mirrored ? -1 : 1]
  const moved = rings.map((ring) => ring.map(([x, y]): Point => [f * x * c - y * s + p.x, f * x * s + y * c + p.y]))
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity]
  for (const [x, y] of moved[0] ?? []) {
    box[0] = Math.min(box[0], x)
    box[1] = Math.min(box[1], y)
    box[2] = Math.max(box[2], x)
    box[3] = Math.max(box[3], y)
  }
  return { rings: moved, box }
}

export interface Gap {
  distance: number
  /** The unit direction that takes the first shape away from the second. */
  away: Point
}

/** The gap between two shapes, at most ``reach``; null beyond that. An overlap is a gap of 0. */
export function gapBetween(a: Shape, b: Shape, reach: number): Gap | null {
  if (a.box[0] > b.box[2] + reach || a.box[2] < b.box[0] - reach) return null
  if (a.box[1] > b.box[3] + reach || a.box[3] < b.box[1] - reach) return null
  if (isIn(a.rings[0]?.[0], b) || isIn(b.rings[0]?.[0], a)) return { distance: 0, away: [0, 0] }
  return gapOfEdges(a, b, reach)
}

/** The gap between a shape and the edge of the room it should lie in. Out of that it is 0. */
export function gapWithin(a: Shape, room: Shape, reach: number): Gap | null {
  return isIn(a.rings[0]?.[0], room) ? gapOfEdges(a, room, reach) : { distance: 0, away: [0, 0] }
}

function gapOfEdges(a: Shape, b: Shape, reach: number): Gap | null {
  let best = reach
  let away: Point | null = null
  for (const [p, q] of edges(a)) {
    for (const [u, v] of edges(b)) {
      if (Math.min(p[0], q[0]) > Math.max(u[0], v[0]) + best || Math.max(p[0], q[0]) < Math.min(u[0], v[0]) - best) continue
      if (Math.min(p[1], q[1]) > Math.max(u[1], v[1]) + best || Math.max(p[1], q[1]) < Math.min(u[1], v[1]) - best) continue
      if (doCross(p, q, u, v)) return { distance: 0, away: [0, 0] }
      for (const [from, to] of [[p, foot(p, u, v)], [q, foot(q, u, v)], [foot(u, p, q), u], [foot(v, p, q), v]] as const) {
        const d = Math.hypot(from[0] - to[0], from[1] - to[1])
        if (d < best) {
          best = d
          away = d > 1e-9 ? [(from[0] - to[0]) / d, (from[1] - to[1]) / d] : [0, 0]
        }
      }
    }
  }
  return away ? { distance: best, away } : null
}

function* edges(s: Shape): Generator<readonly [Point, Point]> {
  for (const ring of s.rings) {
    for (let i = 0; i < ring.length; i += 1) yield [ring[i] as Point, ring[(i + 1) % ring.length] as Point]
  }
}

function foot(p: Point, a: Point, b: Point): Point {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]]
  const t = Math.min(1, Math.max(0, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / (dx * dx + dy * dy || 1)))
  return [a[0] + t * dx, a[1] + t * dy]
}

function side(a: Point, b: Point, p: Point): number {
  return (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])
}

function doCross(p: Point, q: Point, u: Point, v: Point): boolean {
  return side(p, q, u) * side(p, q, v) < 0 && side(u, v, p) * side(u, v, q) < 0
}

/** Whether a point lies in the material of a shape: inside an odd number of its contours. */
function isIn(p: Point | undefined, s: Shape): boolean {
  if (!p) return false
  let isInside = false
  for (const [a, b] of edges(s)) {
    if (a[1] > p[1] !== b[1] > p[1] && p[0] < a[0] + ((p[1] - a[1]) / (b[1] - a[1])) * (b[0] - a[0])) isInside = !isInside
  }
  return isInside
}
