import {
  AmbientLight,
  BufferAttribute,
  BufferGeometry,
  DirectionalLight,
  DoubleSide,
  EdgesGeometry,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshLambertMaterial,
  OrthographicCamera,
  Scene,
  SphereGeometry,
  WebGLRenderer,
} from 'three'
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js'
import { mergeVertices } from 'three/examples/jsm/utils/BufferGeometryUtils.js'

import { frameView } from './frameView'
import { tone } from './tone'

const CORNER = 20

/** A solid as it came, with one place of it lit. */
export class ShellScene {
  private readonly scene = new Scene()
  private readonly camera = new OrthographicCamera(-1, 1, 1, -1, -1e5, 1e5)
  private readonly renderer = new WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true })
  private readonly controls: OrbitControls
  private readonly watcher: ResizeObserver
  private readonly faces = new Mesh(new BufferGeometry(), new MeshLambertMaterial({ color: tone('--metal'), side: DoubleSide, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 }))
  private readonly edges = new LineSegments(new BufferGeometry(), new LineBasicMaterial({ color: tone('--face-edge') }))
  private readonly spot = new Mesh(new SphereGeometry(1, 24, 16), new MeshLambertMaterial({ color: tone('--oxide'), depthTest: false, transparent: true, opacity: 0.85 }))
  private radius = 100

  constructor(private readonly host: HTMLElement) {
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2))
    host.appendChild(this.renderer.domElement)
    this.camera.up.set(0, 0, 1)
    this.controls = new OrbitControls(this.camera, this.renderer.domElement)
    this.controls.enableDamping = false
    this.controls.addEventListener('change', () => this.draw())
    const sun = new DirectionalLight(0xffffff, 1.9)
    sun.position.set(-0.4, -0.9, 1.6)
    this.spot.renderOrder = 2
    this.scene.add(this.faces, this.edges, this.spot, new AmbientLight(0xffffff, 1.7), sun)
    this.watcher = new ResizeObserver(() => this.resize())
    this.watcher.observe(host)
  }

  show(triangles: readonly number[], spot: readonly [number, number, number] | null): void {
    const loose = new BufferGeometry().setAttribute('position', new BufferAttribute(new Float32Array(triangles), 3))
    const geometry = mergeVertices(loose, 1e-3)
    geometry.computeVertexNormals()
    this.faces.geometry.dispose()
    this.edges.geometry.dispose()
    this.faces.geometry = geometry.toNonIndexed()
    this.faces.geometry.computeVertexNormals()
    this.edges.geometry = new EdgesGeometry(geometry, CORNER)
    geometry.computeBoundingSphere()
    const sphere = geometry.boundingSphere
    if (!sphere) return
    this.radius = Math.max(sphere.radius, 1)
    this.spot.visible = spot !== null
    if (spot) this.spot.position.set(...spot)
    this.spot.scale.setScalar(this.radius * 0.035)
    this.controls.target.copy(sphere.center)
    this.camera.position.copy(sphere.center).add({ x: -0.62 * this.radius * 3, y: -this.radius * 3, z: 0.72 * this.radius * 3 })
    this.controls.update()
    this.resize()
  }

  dispose(): void {
    this.watcher.disconnect()
    this.controls.dispose()
    for (const thing of [this.faces, this.edges, this.spot]) {
      thing.geometry.dispose()
      thing.material.dispose()
    }
    this.renderer.dispose()
    this.renderer.domElement.remove()
  }

  private resize(): void {
    if (frameView(this.host, this.renderer, this.camera, this.radius)) this.draw()
  }

  private draw(): void {
    this.renderer.render(this.scene, this.camera)
  }
}
