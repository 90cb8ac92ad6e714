import type { Program } from '@/api/types'

type Run = Program['passes'][number]

export type Key = [string, number, string]
export const keyOf = (run: Run): Key => [run.part, run.copy, run.name]
export const isSame = (a: readonly unknown[], b: readonly unknown[]) => a[0] === b[0] && a[1] === b[1] && a[2] === b[2]

/** The contours of a program in their order. */
export const contoursOf = (program: Program): Run[] => program.passes.filter((p) => p.kind === 'cut' && !p.goes_on)

/** The first and the last place that a contour may take: holes stay before the outline of their part. */
export function placesFor(keys: readonly Key[], moved: Key): [number, number] {
  const rest = keys.filter((k) => !isSame(k, moved))
  const ofPart = (k: Key) => k[0] === moved[0] && k[1] === moved[1]
  const outline = rest.findIndex((k) => ofPart(k) && k[2] === 'outer')
  const lastHole = rest.reduce((last, k, i) => (ofPart(k) && k[2] !== 'outer' ? i : last), -1)
  return moved[2] === 'outer' ? [lastHole + 1, rest.length] : [0, outline < 0 ? rest.length : outline]
}

/** The order with a contour at another place, or at the nearest that it may take. */
export function movedTo(keys: readonly Key[], from: number, to: number): Key[] {
  const moved = keys[from]
  if (!moved) return [...keys]
  const rest = keys.filter((_, i) => i !== from)
  const [least, most] = placesFor(keys, moved)
  const place = Math.min(Math.max(to, least), most)
  return [...rest.slice(0, place), moved, ...rest.slice(place)]
}
