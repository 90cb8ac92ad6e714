export interface Box {
  x: number
  y: number
  w: number
  h: number
}

export interface Wish {
  /** Where the label's middle may lie, best first, screen px. */
  places: { x: number; y: number }[]
  w: number
  h: number
}

export function overlap(a: Box, b: Box): boolean {
  return a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h
}

/** Choose for each label the first of its places that covers nothing; null where none is free. */
export function placeLabels(wishes: readonly Wish[], taken: readonly Box[]): (number | null)[] {
  const used = [...taken]
  return wishes.map(({ places, w, h }) => {
    const at = places.findIndex(
      (p) => !used.some((box) => overlap(box, { x: p.x - w / 2, y: p.y - h / 2, w, h })),
    )
    const place = places[at]
    if (!place) return null
    used.push({ x: place.x - w / 2, y: place.y - h / 2, w, h })
    return at
  })
}
