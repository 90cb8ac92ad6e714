import {
  AmbientLight,
  BufferAttribute,
  BufferGeometry,
  Color,
  DirectionalLight,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshLambertMaterial,
  OrthographicCamera,
  Plane,
  Raycaster,
  Scene,
  Sphere,
  SphereGeometry,
  Vector2,
  Vector3,
  WebGLRenderer,
} from 'three'
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js'
import { LineMaterial } from 'three/examples/jsm/lines/LineMaterial.js'
import { LineSegments2 } from 'three/examples/jsm/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/examples/jsm/lines/LineSegmentsGeometry.js'

import type { Mesh as MeshData, Piece } from '@/api/types'

import { foldPoint, type Share } from './fold'

const UP_FACE = new Color('#f4f2e9')
const DOWN_FACE = new Color('#c3cac7')
const RIM = new Color('#a8b1b0')
const CHOSEN = new Color('#8ba0d0')
const HURT = new Color('#c96a6d')
const INK = 0x1f272b
const DYE = 0x2c4a8c

interface Part3 {
  piece: Piece
  faces: Mesh
  edges: LineSegments
  flat: { faces: Float32Array; edges: Float32Array }
}

export interface Picked {
  bend: number | null
  panel: number | null
}

/** A place on the folded part: snapped to a corner where one is near. */
export interface Spot {
  p: [number, number, number]
  panel: number | null
  normal: [number, number, number] | null
}

export type Axis = 'x' | 'y' | 'z'

/** The folded view: builds a part from its pieces once, then folds it by moving its points. */
export class FoldScene {
  private readonly scene = new Scene()
  private readonly camera = new OrthographicCamera(-1, 1, 1, -1, -10000, 10000)
  private readonly renderer: WebGLRenderer
  private readonly controls: OrbitControls
  private readonly group = new Group()
  private readonly watcher: ResizeObserver
  private parts: Part3[] = []
  private pieces: Piece[] = []
  private share: Share = 1
  private hurt: readonly number[] = []
  private picked: Picked = { bend: null, panel: null }
  private readonly cut = new Plane(new Vector3(-1, 0, 0), 0)
  private readonly spot = new Mesh(new SphereGeometry(1, 20, 12), new MeshLambertMaterial({ color: DYE, depthTest: false }))
  private readonly ruler = new LineSegments2(new LineSegmentsGeometry(), new LineMaterial({ color: DYE, linewidth: 2.5, depthTest: false }))
  private frame = 0
  private radius = 100
  private chosen: Part3 | undefined
  private readonly halo = new LineSegments2(new LineSegmentsGeometry(), new LineMaterial({ color: DYE, linewidth: 4 }))

  constructor(private readonly host: HTMLElement) {
    this.renderer = new WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true })
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2))
    host.appendChild(this.renderer.domElement)
    this.camera.up.set(0, 0, 1)
    this.camera.position.set(-0.62, -1, 0.72)
    this.controls = new OrbitControls(this.camera, this.renderer.domElement)
    this.controls.enableDamping = false
    this.controls.addEventListener('change', () => this.draw())
    const sun = new DirectionalLight(0xffffff, 1.9)
    sun.position.set(-0.4, -0.9, 1.6)
    this.renderer.localClippingEnabled = true
    for (const extra of [this.halo, this.ruler, this.spot]) {
      extra.visible = false
      extra.frustumCulled = false
      extra.renderOrder = 2
    }
    this.scene.add(this.group, this.halo, this.ruler, this.spot, new AmbientLight(0xffffff, 1.7), sun)
    this.watcher = new ResizeObserver(() => this.resize())
    this.watcher.observe(host)
  }

  /** Show another part. */
  show(mesh: MeshData): void {
    this.clear()
    this.pieces = mesh.pieces
    this.parts = mesh.pieces.map((piece) => buildPiece(piece, mesh.thickness))
    for (const part of this.parts) this.group.add(part.faces, part.edges)
    this.fold(this.share)
    this.fit()
  }

  /** Fold the part by a share, 0 flat to 1 folded, of all bends or of each. */
  fold(share: Share): void {
    this.share = share
    this.parts.forEach((part, at) => {
      this.moveTo(part.faces.geometry, part.flat.faces, at)
      this.moveTo(part.edges.geometry, part.flat.edges, at)
      part.faces.geometry.computeVertexNormals()
    })
    this.ring()
    this.draw()
  }

  /** Light up a bend and a panel, and in red the panels that run into each other. */
  highlight(picked: Picked = this.picked, hurt: readonly number[] = this.hurt): void {
    this.picked = picked
    this.hurt = hurt
    this.chosen = undefined
    for (const part of this.parts) {
      const { piece, faces } = part
      const isChosen =
        (piece.bend !== null && piece.bend === picked.bend) ||
        (piece.panel !== null && piece.panel === picked.panel)
      if (isChosen && piece.bend !== null) this.chosen = part
      const materials = faces.material as MeshLambertMaterial[]
      const isHurt = piece.panel !== null && hurt.includes(piece.panel)
      materials[0]?.color.copy(isChosen ? CHOSEN : isHurt ? HURT : UP_FACE)
      materials[1]?.color.copy(isChosen ? CHOSEN : isHurt ? HURT : DOWN_FACE)
    }
    this.ring()
    this.draw()
  }

  /** Light a place of the blank where it is folded to, or none. */
  point(at: readonly [number, number] | null): void {
    const home = at ? this.parts.findIndex((part) => covers(part.piece, at)) : -1
    this.spot.visible = home >= 0
    if (at && home >= 0) {
      this.spot.position.set(...foldPoint(this.pieces, home, [at[0], at[1], 0], this.share))
      this.spot.scale.setScalar(this.radius * 0.028)
    }
    this.draw()
  }

  /** Cut the view open across an axis at a share of the part's reach; null shows it whole. */
  section(axis: Axis | null, share: number): void {
    const planes = axis ? [this.cut] : []
    if (axis) {
      const sphere = this.bounds()
      const middle = sphere.center[axis]
      this.cut.normal.set(axis === 'x' ? -1 : 0, axis === 'y' ? 1 : 0, axis === 'z' ? -1 : 0)
      const at = middle + (2 * share - 1) * sphere.radius
      this.cut.constant = axis === 'y' ? -(middle - (2 * share - 1) * sphere.radius) : at
    }
    for (const { faces, edges } of this.parts) {
      for (const m of faces.material as MeshLambertMaterial[]) m.clippingPlanes = planes
      ;(edges.material as LineBasicMaterial).clippingPlanes = planes
    }
    this.draw()
  }

  /** The place on the part under a point of the window, snapped to a corner within a few pixels. */
  spotAt(clientX: number, clientY: number): Spot | null {
    const hit = this.ray(clientX, clientY).intersectObjects(this.parts.map((p) => p.faces))[0]
    if (!hit) return null
    const found = this.parts.find((p) => p.faces === hit.object)
    const box = this.renderer.domElement.getBoundingClientRect()
    const onScreen = (v: Vector3) => {
      const q = v.clone().project(this.camera)
      return [((q.x + 1) / 2) * box.width, ((1 - q.y) / 2) * box.height] as const
    }
    const [hx, hy] = onScreen(hit.point)
    let best: Vector3 | null = null
    let reach = 11
    const position = found?.edges.geometry.getAttribute('position') as BufferAttribute
    for (let i = 0; i < position.count; i++) {
      const v = new Vector3().fromBufferAttribute(position, i)
      const [x, y] = onScreen(v)
      const off = Math.hypot(x - hx, y - hy)
      if (off < reach) [best, reach] = [v, off]
    }
    const p = best ?? hit.point
    const n = hit.face?.normal
    return { p: [p.x, p.y, p.z], panel: found?.piece.panel ?? null, normal: n ? [n.x, n.y, n.z] : null }
  }

  /** Draw the measured line, or none. */
  measure(points: readonly Spot[]): void {
    const [a, b] = points
    this.ruler.visible = !!a
    if (a) {
      this.ruler.geometry.dispose()
      const to = b ?? { p: [a.p[0] + this.radius * 0.01, a.p[1], a.p[2]] }
      this.ruler.geometry = new LineSegmentsGeometry().setPositions([...a.p, ...to.p])
    }
    this.draw()
  }

  private ray(clientX: number, clientY: number): Raycaster {
    const box = this.renderer.domElement.getBoundingClientRect()
    const at = new Vector2(((clientX - box.left) / box.width) * 2 - 1, 1 - ((clientY - box.top) / box.height) * 2)
    const ray = new Raycaster()
    ray.setFromCamera(at, this.camera)
    return ray
  }

  /** Draw a thick line round the chosen bend: the bend itself may be a hair's breadth wide. */
  private ring(): void {
    this.halo.visible = !!this.chosen
    if (!this.chosen) return
    const position = this.chosen.edges.geometry.getAttribute('position') as BufferAttribute
    this.halo.geometry.dispose()
    this.halo.geometry = new LineSegmentsGeometry().setPositions(position.array as Float32Array)
  }

  /** What lies under a point of the window. */
  pick(clientX: number, clientY: number): Picked {
    const hit = this.ray(clientX, clientY).intersectObjects(this.parts.map((p) => p.faces))[0]
    const found = this.parts.find((p) => p.faces === hit?.object)
    return { bend: found?.piece.bend ?? null, panel: found?.piece.panel ?? null }
  }

  /** Bring the whole part into view. */
  fit(): void {
    const sphere = this.bounds()
    this.radius = Math.max(sphere.radius, 1)
    const way = this.camera.position.clone().sub(this.controls.target).normalize()
    this.controls.target.copy(sphere.center)
    this.camera.position.copy(sphere.center).addScaledVector(way, this.radius * 3)
    this.camera.zoom = 1
    this.resize()
    this.controls.update()
  }

  dispose(): void {
    cancelAnimationFrame(this.frame)
    this.watcher.disconnect()
    this.clear()
    this.controls.dispose()
    this.halo.geometry.dispose()
    this.halo.material.dispose()
    this.ruler.geometry.dispose()
    this.ruler.material.dispose()
    this.spot.geometry.dispose()
    this.spot.material.dispose()
    this.renderer.dispose()
    this.renderer.domElement.remove()
  }

  private bounds(): Sphere {
    const points: Vector3[] = []
    for (const part of this.parts) {
      const position = part.edges.geometry.getAttribute('position')
      for (let i = 0; i < position.count; i++) points.push(new Vector3().fromBufferAttribute(position, i))
    }
    return new Sphere().setFromPoints(points)
  }

  private moveTo(geometry: BufferGeometry, flat: Float32Array, at: number): void {
    const position = geometry.getAttribute('position') as BufferAttribute
    for (let i = 0; i < position.count; i++) {
      const p = foldPoint(
        this.pieces,
        at,
        [flat[3 * i] ?? 0, flat[3 * i + 1] ?? 0, flat[3 * i + 2] ?? 0],
        this.share,
      )
      position.setXYZ(i, ...p)
    }
    position.needsUpdate = true
    geometry.computeBoundingSphere()
  }

  private resize(): void {
    const { clientWidth: w, clientHeight: h } = this.host
    if (!w || !h) return
    this.renderer.setSize(w, h)
    const reach = this.radius * 1.12
    const [x, y] = w > h ? [(reach * w) / h, reach] : [reach, (reach * h) / w]
    Object.assign(this.camera, { left: -x, right: x, top: y, bottom: -y })
    this.camera.updateProjectionMatrix()
    this.draw()
  }

  private draw(): void {
    cancelAnimationFrame(this.frame)
    this.frame = requestAnimationFrame(() => this.renderer.render(this.scene, this.camera))
  }

  private clear(): void {
    for (const { faces, edges } of this.parts) {
      this.group.remove(faces, edges)
      faces.geometry.dispose()
      edges.geometry.dispose()
      for (const m of faces.material as MeshLambertMaterial[]) m.dispose()
      ;(edges.material as LineBasicMaterial).dispose()
    }
    this.parts = []
    this.chosen = undefined
  }
}

/** Whether a place of the blank lies on a piece. */
function covers(piece: Piece, [x, y]: readonly [number, number]): boolean {
  const t = piece.triangles
  for (let i = 0; i < t.length; i += 6) {
    const [ax, ay, bx, by, cx, cy] = t.slice(i, i + 6) as [number, number, number, number, number, number]
    const sides = [
      (bx - ax) * (y - ay) - (by - ay) * (x - ax),
      (cx - bx) * (y - by) - (cy - by) * (x - bx),
      (ax - cx) * (y - cy) - (ay - cy) * (x - cx),
    ]
    if (sides.every((s) => s >= -1e-6) || sides.every((s) => s <= 1e-6)) return true
  }
  return false
}

/** Both faces of a piece, its rim and its edges, as it lies in the blank. */
function buildPiece(piece: Piece, thickness: number): Part3 {
  const top: number[] = []
  const under: number[] = []
  for (let i = 0; i < piece.triangles.length; i += 6) {
    const [ax, ay, bx, by, cx, cy] = piece.triangles.slice(i, i + 6) as [number, number, number, number, number, number]
    top.push(ax, ay, 0, bx, by, 0, cx, cy, 0)
    under.push(ax, ay, -thickness, cx, cy, -thickness, bx, by, -thickness)
  }
  const rim: number[] = []
  const lines: number[] = []
  for (const outline of piece.outlines) {
    for (let i = 0; i + 3 < outline.length; i += 2) {
      const [ax, ay, bx, by] = outline.slice(i, i + 4) as [number, number, number, number]
      rim.push(ax, ay, 0, ax, ay, -thickness, bx, by, 0, bx, by, 0, ax, ay, -thickness, bx, by, -thickness)
      lines.push(ax, ay, 0, bx, by, 0, ax, ay, -thickness, bx, by, -thickness)
    }
  }
  const flat = { faces: new Float32Array([...top, ...under, ...rim]), edges: new Float32Array(lines) }
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(flat.faces.slice(), 3))
  geometry.addGroup(0, top.length / 3, 0)
  geometry.addGroup(top.length / 3, under.length / 3, 1)
  geometry.addGroup((top.length + under.length) / 3, rim.length / 3, 2)
  const materials = [UP_FACE, DOWN_FACE, RIM].map(
    (colour) =>
      new MeshLambertMaterial({
        color: colour.clone(), side: DoubleSide, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1,
      }),
  )
  const edgeGeometry = new BufferGeometry()
  edgeGeometry.setAttribute('position', new BufferAttribute(flat.edges.slice(), 3))
  const edges = new LineSegments(
    edgeGeometry,
    new LineBasicMaterial({ color: INK, transparent: true, opacity: piece.bend === null ? 0.85 : 0.28 }),
  )
  return { piece, faces: new Mesh(geometry, materials), edges, flat }
}
