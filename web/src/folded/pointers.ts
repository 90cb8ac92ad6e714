import { Group, Mesh, MeshLambertMaterial, SphereGeometry, Vector3, type BufferAttribute, type Camera } from 'three'
import { LineMaterial } from 'three/examples/jsm/lines/LineMaterial.js'
import { LineSegments2 } from 'three/examples/jsm/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/examples/jsm/lines/LineSegmentsGeometry.js'

import { tone } from './tone'

const CATCH = 11

/** A place on the folded part: snapped to a corner where one is near. */
export interface Spot {
  p: [number, number, number]
  panel: number | null
  normal: [number, number, number] | null
}

/** What points at places of the folded part: the lit spot of a finding, the measured line. */
export class Pointers {
  readonly group = new Group()
  private readonly spot = new Mesh(new SphereGeometry(1, 20, 12), new MeshLambertMaterial({ color: tone('--dye'), depthTest: false }))
  private readonly ruler = new LineSegments2(new LineSegmentsGeometry(), new LineMaterial({ color: tone('--dye'), linewidth: 2.5, depthTest: false }))

  constructor() {
    for (const thing of [this.spot, this.ruler]) {
      thing.visible = false
      thing.frustumCulled = false
      thing.renderOrder = 2
      this.group.add(thing)
    }
  }

  /** Light a place on a part of a size, or none. */
  light(at: [number, number, number] | null, radius: number): void {
    this.spot.visible = at !== null
    if (!at) return
    this.spot.position.set(...at)
    this.spot.scale.setScalar(radius * 0.028)
  }

  /** Draw the line between two places, a dot for one, nothing for none. */
  measure([a, b]: readonly Spot[], radius: number): void {
    this.ruler.visible = !!a
    if (!a) return
    this.ruler.geometry.dispose()
    const to = b?.p ?? [a.p[0] + radius * 0.01, a.p[1], a.p[2]]
    this.ruler.geometry = new LineSegmentsGeometry().setPositions([...a.p, ...to])
  }

  dispose(): void {
    for (const thing of [this.spot, this.ruler]) {
      thing.geometry.dispose()
      thing.material.dispose()
    }
  }
}

/** The corner that is drawn within a few pixels of a place, or the place itself. */
export function nearestCorner(place: Vector3, corners: BufferAttribute, camera: Camera, box: DOMRect): Vector3 {
  const onScreen = (v: Vector3) => {
    const q = v.clone().project(camera)
    return [((q.x + 1) / 2) * box.width, ((1 - q.y) / 2) * box.height] as const
  }
  const [hx, hy] = onScreen(place)
  let best = place
  let reach = CATCH
  for (let i = 0; i < corners.count; i++) {
    const v = new Vector3().fromBufferAttribute(corners, i)
    const [x, y] = onScreen(v)
    const off = Math.hypot(x - hx, y - hy)
    if (off < reach) [best, reach] = [v, off]
  }
  return best
}
