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
  // A sharp bend without stretch (K 0: card) takes nothing; all that is rolled lies beyond it.
  const turn = joint.allowance ? (within / joint.allowance) * angle : angle
  const beyond = x - within
  const across = r * Math.sin(turn) + beyond * Math.cos(turn)
  const height = centre - side * r * Math.cos(turn) + side * beyond * Math.sin(turn)
  return [sx + across * ux - y * uy, sy + across * uy + y * ux, height]
}

/** How far each bend is folded, 0 flat to 1. */
export type Share = number | ((piece: Piece) => number)

/**
 * The shares of the bends when they are folded one after the other: `order` says for each bend
 * number its place in the sequence from 0, `t` how far the whole sequence has come.
 */
export function inSequence(order: ReadonlyMap<number, number>, t: number): (piece: Piece) => number {
  const at = t * order.size
  return (piece) => Math.min(1, Math.max(0, at - (order.get(piece.bend ?? -1) ?? 0)))
}

/** The shares with single bends opened: folded by no more than a share of their angle, as a lid stands open. */
export function opened(share: Share, open: ReadonlyMap<number, number>): Share {
  if (!open.size) return share
  return (piece) => (typeof share === 'number' ? share : share(piece)) * (open.get(piece.bend ?? -1) ?? 1)
}

/** Where a point of a piece goes when the part is folded by a share, of all bends or of each. */
export function foldPoint(
  pieces: readonly Piece[],
  at: number,
  p: [number, number, number],
  share: Share,
): [number, number, number] {
  let point = p
  let piece = pieces[at]
  while (piece) {
    if (piece.joint) point = roll(point, piece.joint, typeof share === 'number' ? share : share(piece))
    piece = piece.parent === null ? undefined : pieces[piece.parent]
  }
  return point
}
