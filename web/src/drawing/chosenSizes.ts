import type { Sheets } from '@/api/types'

export type Size = NonNullable<Sheets['markup']['sizes']>[number]
export type Place = Sheets['places'][number]
export type Way = Size['way']

/** Which way a size is to be taken: across or upwards is settled by how its ends lie. */
export type Taken = Way | 'square'

/** Which ways a size is taken, as the slip calls them. */
export const WAYS: readonly { value: Taken; title: string }[] = [
  { value: 'square', title: 'across or upwards' },
  { value: 'level', title: 'across' },
  { value: 'upright', title: 'upwards' },
  { value: 'straight', title: 'straight' },
  { value: 'round', title: 'diameter or radius' },
]

/** What a place is called beside the pointer. */
export const CALLED: Record<Place['kind'], string> = {
  corner: 'corner',
  edge: 'edge',
  hole: 'middle of a hole',
  arc: 'middle of an arc',
  bend: 'bend line',
  'bend end': 'end of a bend line',
  mark: 'middle of what is made later',
}

/** The way of a size between two places of the flat. */
export function wayOf(taken: Taken, start: Place, end: Place): Way {
  if (taken !== 'square') return taken
  const [dx, dy] = [end.place[0] - start.place[0], end.place[1] - start.place[1]]
  return Math.abs(dx) >= Math.abs(dy) ? 'level' : 'upright'
}

/** The place nearest to a point of the sheet, mm of paper, if it is within reach; of something round where that is asked for. */
export function nearestPlace(places: readonly Place[], at: readonly [number, number], reach: number, isRound: boolean): Place | null {
  let best: Place | null = null
  let least = reach
  for (const place of places) {
    if (isRound && !place.radius) continue
    const away = Math.hypot(place.at[0] - at[0], place.at[1] - at[1])
    if (away < least) [best, least] = [place, away]
  }
  return best
}

/** How much a size is, mm; null where the sheet has it no more. */
export function amountOf(size: Size, places: readonly Place[]): number | null {
  const [dx, dy] = [size.end[0] - size.start[0], size.end[1] - size.start[1]]
  if (size.way === 'level') return Math.abs(dx)
  if (size.way === 'upright') return Math.abs(dy)
  if (size.way === 'straight') return Math.hypot(dx, dy)
  const round = places.find((p) => p.radius && Math.hypot(p.place[0] - size.start[0], p.place[1] - size.start[1]) < 0.01)
  return round ? round.radius * (round.kind === 'hole' ? 2 : 1) : null
}

/** The deviations of a size as the slip tells them. */
export function toleranceOf(size: Size, write: (mm: number) => string): string {
  const { upper, lower } = size
  if (upper === null || upper === undefined || lower === null || lower === undefined) return ''
  const signed = (v: number) => `${v > 0 ? '+' : v < 0 ? '−' : ''}${write(Math.abs(v))}`
  return upper === -lower ? `±${write(upper)}` : `${signed(upper)} ${signed(lower)}`
}
