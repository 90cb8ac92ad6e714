import type { OrthographicCamera, WebGLRenderer } from 'three'

const ROOM = 1.12

/** Size a view to its host and let its camera see a ball of a radius; false while there is no room. */
export function frameView(host: HTMLElement, renderer: WebGLRenderer, camera: OrthographicCamera, radius: number): boolean {
  const { clientWidth: w, clientHeight: h } = host
  if (!w || !h) return false
  renderer.setSize(w, h)
  const reach = radius * ROOM
  const [x, y] = w > h ? [(reach * w) / h, reach] : [reach, (reach * h) / w]
  Object.assign(camera, { left: -x, right: x, top: y, bottom: -y })
  camera.updateProjectionMatrix()
  return true
}
