import { onScopeDispose, ref, shallowRef, type Ref } from 'vue'

import type { Nest } from '@/api/types'

import { gapBetween, laid, ringsOf, type Point, type Shape } from './apart'

type Sheet = Nest['sheets'][number]

const REACH_PX = 9

/** What a drag has come to: how far, and whether what is dragged lies well there. */
export interface Drag {
  by: Point
  isFree: boolean
}

/**
 * Dragging placements over their sheet. They stick at the least spacing to neighbours and at the
 * margin to the sheet's edges, and tell at once when they lie on something.
 */
export function useDragging(
  given: () => { nest: Nest; sheet: Sheet; picked: readonly string[]; scale: number },
  drop: (by: Point) => void,
) {
  const drag = shallowRef<Drag | null>(null)
  const rings = new Map<string, Point[][]>()
  const isDown = ref(false)
  let from: Point = [0, 0]
  let moving: Shape[] = []
  let others: Shape[] = []

  function shapes(isPicked: boolean): Shape[] {
    const { nest, sheet, picked } = given()
    return sheet.placements.flatMap((p) => {
      if (picked.includes(`${p.part} ${p.copy}`) !== isPicked) return []
      const part = nest.parts.find((o) => o.id === p.part)
      if (!part) return []
      const known = rings.get(part.path) ?? ringsOf(part.path)
      rings.set(part.path, known)
      return [laid(known, p)]
    })
  }

  function begin(event: PointerEvent): void {
    from = [event.clientX, event.clientY]
    isDown.value = true
    window.addEventListener('pointermove', move)
    window.addEventListener('pointerup', end)
  }

  function move(event: PointerEvent): void {
    const { nest, sheet, scale } = given()
    const by: [number, number] = [(event.clientX - from[0]) / scale, (from[1] - event.clientY) / scale]
    if (!drag.value) {
      if (Math.hypot(by[0], by[1]) * scale < 4) return
      ;[moving, others] = [shapes(true), shapes(false)]
    }
    drag.value = settled(by, nest, sheet, REACH_PX / scale)
  }

  /** Where a drag sticks, and whether it may lie there. */
  function settled(by: [number, number], nest: Nest, sheet: Sheet, reach: number): Drag {
    const stock = nest.stock.find((s) => s.id === sheet.sheet)
    const m = nest.margin
    const [x0, y0, x1, y1] = bounds(moving)
    if (stock) {
      by[0] = stuck(by[0], [m - x0, stock.width - m - x1], reach)
      by[1] = stuck(by[1], [m - y0, stock.height - m - y1], reach)
    }
    for (let i = 0; i < 2; i += 1) {
      const gap = nearest(by, nest.spacing + reach)
      if (gap && gap.distance > 0 && Math.abs(gap.distance - nest.spacing) < reach) {
        by[0] += (nest.spacing - gap.distance) * gap.away[0]
        by[1] += (nest.spacing - gap.distance) * gap.away[1]
      }
    }
    const gap = nearest(by, nest.spacing + 1)
    const isOn =
      !stock ||
      (x0 + by[0] >= m - 0.01 && y0 + by[1] >= m - 0.01 && x1 + by[0] <= stock.width - m + 0.01 && y1 + by[1] <= stock.height - m + 0.01)
    return { by, isFree: isOn && (!gap || gap.distance >= nest.spacing - 0.02) }
  }

  function nearest(by: Point, reach: number) {
    let best: ReturnType<typeof gapBetween> = null
    for (const shape of moving) {
      const there: Shape = {
        rings: shape.rings.map((r) => r.map(([x, y]): Point => [x + by[0], y + by[1]])),
        box: [shape.box[0] + by[0], shape.box[1] + by[1], shape.box[2] + by[0], shape.box[3] + by[1]],
      }
      for (const other of others) {
        const gap = gapBetween(there, other, reach)
        if (gap && (!best || gap.distance < best.distance)) best = gap
      }
    }
    return best
  }

  function end(): void {
    window.removeEventListener('pointermove', move)
    window.removeEventListener('pointerup', end)
    isDown.value = false
    const done = drag.value
    drag.value = null
    if (done) drop(done.by)
  }
  onScopeDispose(() => {
    window.removeEventListener('pointermove', move)
    window.removeEventListener('pointerup', end)
  })
  return { drag, isDown: isDown as Readonly<Ref<boolean>>, begin }
}

function bounds(shapes: readonly Shape[]): [number, number, number, number] {
  return [
    Math.min(...shapes.map((s) => s.box[0])),
    Math.min(...shapes.map((s) => s.box[1])),
    Math.max(...shapes.map((s) => s.box[2])),
    Math.max(...shapes.map((s) => s.box[3])),
  ]
}

function stuck(value: number, places: readonly number[], reach: number): number {
  return places.find((p) => Math.abs(p - value) <= reach) ?? value
}
