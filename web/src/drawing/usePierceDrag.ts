import { onScopeDispose, shallowRef } from 'vue'

import type { Program } from '@/api/types'

import type { Point } from './apart'

interface Screen {
  x: number
  y: number
}

const LEAST_PX = 3
const STEPS = 600

/** Dragging a pierce along its contour: it follows the pointer from place to place on the path. */
export function usePierceDrag(
  given: () => { program: Program | undefined; scale: number; host: SVGSVGElement | null; toScreen: (p: Point) => Screen },
  drop: (run: number, at: Point) => void,
) {
  const pulled = shallowRef<(Screen & { at: Point }) | null>(null)
  let places: (Screen & { at: Point })[] = []
  let run = -1
  let from: Screen = { x: 0, y: 0 }

  function pull(event: PointerEvent, index: number): void {
    const { program, host, toScreen } = given()
    const contour = program?.passes[index]
    if (!contour || !host || event.button !== 0) return
    const path = document.createElementNS('http://www.w3.org/2000/svg', 'path')
    path.setAttribute('d', contour.path)
    const length = path.getTotalLength()
    places = Array.from({ length: STEPS + 1 }, (_, i) => {
      const p = path.getPointAtLength((length * i) / STEPS)
      return { ...toScreen([p.x, p.y]), at: [p.x, p.y] as Point }
    })
    run = index
    from = { x: event.clientX, y: event.clientY }
    window.addEventListener('pointermove', move)
    window.addEventListener('pointerup', end)
  }

  function move(event: PointerEvent): void {
    const box = given().host?.getBoundingClientRect()
    if (!box || (!pulled.value && Math.hypot(event.clientX - from.x, event.clientY - from.y) < LEAST_PX)) return
    const [x, y] = [event.clientX - box.left, event.clientY - box.top]
    const far = (p: Screen) => Math.hypot(p.x - x, p.y - y)
    pulled.value = places.reduce((best, p) => (far(p) < far(best) ? p : best))
  }

  function end(): void {
    stop()
    const done = pulled.value
    pulled.value = null
    if (!done) return
    // Letting go is no click on the contour that lies there.
    const swallow = (event: Event) => event.stopPropagation()
    window.addEventListener('click', swallow, { capture: true, once: true })
    setTimeout(() => window.removeEventListener('click', swallow, { capture: true }))
    drop(run, done.at)
  }
  function stop(): void {
    window.removeEventListener('pointermove', move)
    window.removeEventListener('pointerup', end)
  }
  onScopeDispose(stop)
  return { pulled, pull }
}
