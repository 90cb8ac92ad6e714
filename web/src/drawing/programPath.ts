import type { Program } from '@/api/types'

import type { Point } from './apart'

/** The number of each run's contour in the order of cutting; 0 for marks and cuts through scrap. */
export function orderNumbers(program: Program): number[] {
  let last = 0
  return program.passes.map((p) => {
    if (p.kind !== 'cut') return 0
    if (!p.goes_on) last += 1
    return last
  })
}

/** The point a share along a way of straight moves. */
export function alongWay(points: readonly Point[], share: number): Point {
  const last = points.at(-1) ?? [0, 0]
  const lengths = points.slice(1).map((p, i) => Math.hypot(p[0] - (points[i]?.[0] ?? 0), p[1] - (points[i]?.[1] ?? 0)))
  let left = lengths.reduce((a, b) => a + b, 0) * share
  for (const [i, length] of lengths.entries()) {
    const [from, to] = [points[i], points[i + 1]]
    if (!from || !to) break
    if (left <= length && length > 0) return [from[0] + ((to[0] - from[0]) * left) / length, from[1] + ((to[1] - from[1]) * left) / length]
    left -= length
  }
  return last
}
