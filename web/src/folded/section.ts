import type { Plane, Sphere } from 'three'

export type Axis = 'x' | 'y' | 'z'

/** Lay a cutting plane across an axis at a share of a part's reach; what faces the viewer goes. */
export function placeCut(plane: Plane, axis: Axis, share: number, { center, radius }: Sphere): void {
  const side = axis === 'y' ? 1 : -1
  const along = (2 * share - 1) * radius
  plane.normal.set(axis === 'x' ? side : 0, axis === 'y' ? side : 0, axis === 'z' ? side : 0)
  plane.constant = -side * center[axis] + along
}
