import type { Piece } from '@/api/types'

type Joint = NonNullable<Piece['joint']>

/**
 * Roll a point of the blank (z 0 is the face that lies up) by a share of a bend's angle. The
 * developed length stays: the neutral radius is the allowance over the angle so far.
 */
export function roll(p: [number, number, number], joint: Joint, share: number): [number, number, number] {
  const angle = joint.angle * share
  if (angle < 1e-9) return p
  const [sx, sy] = joint.start
  const [ux, uy] = joint.across
  const x = (p[0] - sx) * ux + (p[1] - sy) * uy
  const y = (p[1] - sy) * ux - (p[0] - sx) * uy
  const side = joint.is_up ? 1 : -1
  const centre = joint.neutral + (side * joint.allowance) / angle
  const r = side * (centre - p[2])
  const within = Math.min(Math.max(x, 0), joint.allowance)
  const turn = (within / joint.allowance) * angle
  const beyond = x - within
  const across = r * Math.sin(turn) + beyond * Math.cos(turn)
  const height = centre - side * r * Math.cos(turn) + side * beyond * Math.sin(turn)
  return [sx + across * ux - y * uy, sy + across * uy + y * ux, height]
}

/** Where a point of a piece goes when the whole part is folded by a share. */
export function foldPoint(
  pieces: readonly Piece[],
  at: number,
  p: [number, number, number],
  share: number,
): [number, number, number] {
  let point = p
  let piece = pieces[at]
  while (piece) {
    if (piece.joint) point = roll(point, piece.joint, share)
    piece = piece.parent === null ? undefined : pieces[piece.parent]
  }
  return point
}
