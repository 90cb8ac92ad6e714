import {
  AmbientLight,
  type BufferAttribute,
  type BufferGeometry,
  DirectionalLight,
  Group,
  type LineBasicMaterial,
  type MeshLambertMaterial,
  OrthographicCamera,
  Plane,
  Raycaster,
  Scene,
  Sphere,
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
import { frameView } from './frameView'
import { buildPiece, covers, type Part3 } from './part3'
import { nearestCorner, Pointers, type Spot } from './pointers'
import { placeCut, type Axis } from './section'
import { faceTones, tone } from './tone'


export interface Picked {
  bend: number | null
  panel: number | null
}

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
  private readonly pointers = new Pointers()
  private readonly written = new Set<() => void>()
  private frame = 0
  private radius = 100
  private chosen: Part3 | undefined
  private readonly halo = new LineSegments2(new LineSegmentsGeometry(), new LineMaterial({ color: tone('--dye'), linewidth: 4 }))
  private readonly tones = faceTones()

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
    this.halo.visible = false
    this.halo.frustumCulled = false
    this.scene.add(this.group, this.halo, this.pointers.group, new AmbientLight(0xffffff, 1.7), sun)
    this.watcher = new ResizeObserver(() => this.resize())
    this.watcher.observe(host)
  }

  /** Show another part. */
  show(mesh: MeshData): void {
    this.clear()
    this.pieces = mesh.pieces
    this.parts = mesh.pieces.map((piece) => buildPiece(piece, mesh.thickness, this.tones))
    for (const part of this.parts) this.group.add(part.faces, part.edges, part.creases)
    this.fold(this.share)
    this.fit()
  }

  /** Fold the part by a share, 0 flat to 1 folded, of all bends or of each. */
  fold(share: Share): void {
    this.share = share
    this.parts.forEach((part, at) => {
      this.moveTo(part.faces.geometry, part.flat.faces, at)
      this.moveTo(part.edges.geometry, part.flat.edges, at)
      this.moveTo(part.creases.geometry, part.flat.creases, at)
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
      materials[0]?.color.copy(isChosen ? this.tones.chosen : isHurt ? this.tones.hurt : this.tones.up)
      materials[1]?.color.copy(isChosen ? this.tones.chosen : isHurt ? this.tones.hurt : this.tones.down)
    }
    this.ring()
    this.draw()
  }

  /** Light a place of the blank where it is folded to, or none. */
  point(at: readonly [number, number] | null): void {
    const home = at ? this.parts.findIndex((part) => covers(part.piece, at)) : -1
    this.pointers.light(at && home >= 0 ? foldPoint(this.pieces, home, [at[0], at[1], 0], this.share) : null, this.radius)
    this.draw()
  }

  /** Call something after each drawing, for what is written over it; gives back how to end that. */
  afterDraw(write: () => void): () => void {
    this.written.add(write)
    return () => this.written.delete(write)
  }

  /** Where a place of a panel is drawn, px from the view's upper left corner; null where there is no such panel. */
  placeOf(panel: number, [x, y]: readonly [number, number]): [number, number] | null {
    const home = this.pieces.findIndex((p) => p.panel === panel)
    if (home < 0) return null
    const q = new Vector3(...foldPoint(this.pieces, home, [x, y, 0], this.share)).project(this.camera)
    return [((q.x + 1) / 2) * this.host.clientWidth, ((1 - q.y) / 2) * this.host.clientHeight]
  }

  /** Cut the view open across an axis at a share of the part's reach; null shows it whole. */
  section(axis: Axis | null, share: number): void {
    const planes = axis ? [this.cut] : []
    if (axis) placeCut(this.cut, axis, share, this.bounds())
    for (const { faces, edges, creases } of this.parts) {
      for (const m of faces.material as MeshLambertMaterial[]) m.clippingPlanes = planes
      for (const lines of [edges, creases]) (lines.material as LineBasicMaterial).clippingPlanes = planes
    }
    this.draw()
  }

  /** The place on the part under a point of the window, snapped to a corner within a few pixels. */
  spotAt(clientX: number, clientY: number): Spot | null {
    const hit = this.ray(clientX, clientY).intersectObjects(this.parts.map((p) => p.faces))[0]
    const found = this.parts.find((p) => p.faces === hit?.object)
    if (!hit || !found) return null
    const corners = found.edges.geometry.getAttribute('position') as BufferAttribute
    const p = nearestCorner(hit.point, corners, this.camera, this.renderer.domElement.getBoundingClientRect())
    const n = hit.face?.normal
    return { p: [p.x, p.y, p.z], panel: found.piece.panel, normal: n ? [n.x, n.y, n.z] : null }
  }

  /** Draw the measured line, or none. */
  measure(points: readonly Spot[]): void {
    this.pointers.measure(points, this.radius)
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
    this.pointers.dispose()
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
    if (frameView(this.host, this.renderer, this.camera, this.radius)) this.draw()
  }

  private draw(): void {
    cancelAnimationFrame(this.frame)
    this.frame = requestAnimationFrame(() => {
      this.renderer.render(this.scene, this.camera)
      for (const write of this.written) write()
    })
  }

  private clear(): void {
    for (const { faces, edges, creases } of this.parts) {
      this.group.remove(faces, edges, creases)
      for (const drawn of [faces, edges, creases]) drawn.geometry.dispose()
      for (const m of faces.material as MeshLambertMaterial[]) m.dispose()
      for (const lines of [edges, creases]) (lines.material as LineBasicMaterial).dispose()
    }
    this.parts = []
    this.chosen = undefined
  }
}
