import { onScopeDispose, ref, shallowRef, type Ref } from 'vue'

import type { Nest } from '@/api/types'

import { gapBetween, gapWithin, laid, ringsOf, type Gap, type Point, type Shape } from './apart'

type Sheet = Nest['sheets'][number]

const REACH_PX = 9

/** How near something is to what is dragged: the gap, and how much more it is than it must be. */
interface Touch {
  of: Shape
  gap: Gap
  slack: number
}

/** What a drag has come to: how far, and whether what is dragged lies well there. */
export interface Drag {
  by: Point
  isFree: boolean
}

/**
 * Dragging placements over their sheet. They stick at the least spacing to neighbours and at the
 * margin to the sheet's edge, a remnant's outline too, and tell at once when they lie on something.
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
  let room: Shape | null = null

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
      const stock = nest.stock.find((s) => s.id === sheet.sheet)
      room = stock ? laid(ringsOf(stock.path, 'room'), { x: 0, y: 0 }) : null
    }
    drag.value = settled(by, nest, sheet, REACH_PX / scale)
  }

  /** Where a drag sticks, and whether it may lie there. */
  function settled(by: [number, number], nest: Nest, sheet: Sheet, reach: number): Drag {
    const stock = nest.stock.find((s) => s.id === sheet.sheet)
    if (stock) {
      const [x0, y0, x1, y1] = bounds(moving)
      by[0] = stuck(by[0], [nest.margin - x0, stock.width - nest.margin - x1], reach)
      by[1] = stuck(by[1], [nest.margin - y0, stock.height - nest.margin - y1], reach)
    }
    // Two touches fix it: first the tightest, then, along that, the tightest of the others.
    const first = tightest(by, nest, reach)
    if (first && slide(by, first, null, reach)) {
      const second = tightest(by, nest, reach, first.of)
      if (second) slide(by, second, first.gap.away, reach)
    }
    const { slack } = tightest(by, nest, 1) ?? { slack: 0 }
    return { by, isFree: slack >= -0.02 }
  }

  /** The gap that is least above what it must be, or most below it, but for that of one thing. */
  function tightest(by: Point, nest: Nest, reach: number, but: Shape | null = null): Touch | null {
    let best: Touch | null = null
    for (const shape of moving) {
      const there: Shape = {
        rings: shape.rings.map((r) => r.map(([x, y]): Point => [x + by[0], y + by[1]])),
        box: [shape.box[0] + by[0], shape.box[1] + by[1], shape.box[2] + by[0], shape.box[3] + by[1]],
      }
      for (const of of room ? [...others, room] : others) {
        if (of === but) continue
        const least = of === room ? nest.margin : nest.spacing
        const gap = of === room ? gapWithin(there, of, least + reach) : gapBetween(there, of, least + reach)
        if (gap && (!best || gap.distance - least < best.slack)) best = { of, gap, slack: gap.distance - least }
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

/** Move a drag to where a gap is as it must be, along what is held; whether that could be done. */
function slide(by: [number, number], { gap, slack }: Touch, held: Point | null, reach: number): boolean {
  const across = held ? gap.away[0] * held[0] + gap.away[1] * held[1] : 0
  const way: Point = held ? [gap.away[0] - across * held[0], gap.away[1] - across * held[1]] : gap.away
  const gain = way[0] * gap.away[0] + way[1] * gap.away[1]
  if (!gap.distance || Math.abs(slack) >= reach * gain) return false
  by[0] -= (slack / gain) * way[0]
  by[1] -= (slack / gain) * way[1]
  return true
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
