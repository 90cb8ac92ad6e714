import type { Nest } from '@/api/types'

type Placement = Pick<Nest['sheets'][number]['placements'][number], 'x' | 'y' | 'turn' | 'mirrored'>

/** A placement as an SVG transform: mirrored, then turned, then moved, mm. */
export function placeMatrix(p: Placement): string {
  const t = ((p.turn ?? 0) * Math.PI) / 180
  const [c, s] = [Math.cos(t), Math.sin(t)]
  const f = p.mirrored ? -1 : 1
  return `matrix(${[f * c, f * s, -s, c, p.x, p.y].map((v) => Number(v.toFixed(6))).join(' ')})`
}
