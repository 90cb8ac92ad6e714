import { select } from 'd3-selection'
import { zoom, zoomIdentity, type ZoomTransform } from 'd3-zoom'
import { computed, onMounted, onScopeDispose, ref, shallowRef, toValue, watch, type MaybeRefOrGetter, type Ref } from 'vue'

/** Milliseconds without a move after which the hand rests. */
const RESTING = 140

export interface Extent {
  width: number
  height: number
}

interface Space {
  left: number
  right: number
  top: number
  bottom: number
}

/**
 * Pan by drag, zoom by wheel about the pointer, fit on demand. Gives how a drawing's millimetres
 * (y up) go to pixels (y down).
 *
 * A heavy drawing is not drawn anew while the hand moves: `glide` moves its picture as it is, and
 * it is drawn sharp again when the hand rests. What glides must lie within the host, not be it.
 */
export function usePanZoom(
  host: Ref<HTMLElement | SVGSVGElement | null>,
  extent: MaybeRefOrGetter<Extent | null>,
  space: Space,
  isHeavy: MaybeRefOrGetter<boolean> = false,
) {
  const size = ref<Extent>({ width: 0, height: 0 })
  const moved = shallowRef<ZoomTransform>(zoomIdentity)
  const settled = shallowRef<ZoomTransform>(zoomIdentity)
  let rest = 0
  const behaviour = zoom<HTMLElement | SVGSVGElement, unknown>()
    .scaleExtent([0.5, 80])
    .on('zoom', (event: { transform: ZoomTransform }) => {
      moved.value = event.transform
      clearTimeout(rest)
      if (toValue(isHeavy)) rest = window.setTimeout(settle, RESTING)
      else settle()
    })
  const watcher = new ResizeObserver(([entry]) => {
    if (entry) size.value = { width: entry.contentRect.width, height: entry.contentRect.height }
  })

  function settle(): void {
    settled.value = moved.value
  }
  const glide = computed(() => {
    const [to, from] = [moved.value, settled.value]
    if (to === from) return { transform: '', willChange: '' }
    const r = to.k / from.k
    return { transform: `translate(${to.x - r * from.x}px, ${to.y - r * from.y}px) scale(${r})`, transformOrigin: '0 0', willChange: 'transform' }
  })

  const base = computed(() => {
    const e = toValue(extent)
    if (!e || !size.value.width) return { k: 1, x: 0, y: 0 }
    const w = Math.max(10, size.value.width - space.left - space.right)
    const h = Math.max(10, size.value.height - space.top - space.bottom)
    const k = Math.min(w / e.width, h / e.height)
    return {
      k,
      x: space.left + (w - e.width * k) / 2,
      y: space.top + (h + e.height * k) / 2,
    }
  })
  const view = computed(() => {
    const { k, x, y } = settled.value
    return { k: base.value.k * k, x: base.value.x * k + x, y: base.value.y * k + y }
  })
  const matrix = computed(() => {
    const { k, x, y } = view.value
    return `matrix(${k} 0 0 ${-k} ${x} ${y})`
  })

  function toScreen(p: readonly [number, number]): { x: number; y: number } {
    const { k, x, y } = view.value
    return { x: x + p[0] * k, y: y - p[1] * k }
  }

  function fit(): void {
    if (!host.value) return
    select(host.value).call(behaviour.transform, zoomIdentity)
    settle()
  }

  onMounted(() => {
    if (!host.value) return
    watcher.observe(host.value)
    select(host.value).call(behaviour).on('dblclick.zoom', null)
  })
  watch(() => JSON.stringify(toValue(extent)), fit)
  window.addEventListener('kaigata:fit', fit)
  onScopeDispose(() => {
    clearTimeout(rest)
    watcher.disconnect()
    window.removeEventListener('kaigata:fit', fit)
  })
  return { size, view, matrix, glide, toScreen, fit }
}
