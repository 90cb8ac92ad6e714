import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { client, take } from '@/api/client'
import type { Cut, Program } from '@/api/types'
import type { Point } from '@/drawing/apart'
import { useUndo } from '@/stores/undo'

import { contoursOf, isSame, keyOf, movedTo, placesFor, type Key } from './contourOrder'

type Pierce = [string, number, string, number, number]
type Run = Program['passes'][number]

interface Kept {
  order: Key[]
  pierces: Pierce[]
}

function keptOf(cut: Cut | undefined, sheet: number): Kept {
  const kept = cut?.by_hand.find((h) => h.sheet === sheet)
  return { order: (kept?.order ?? []) as Key[], pierces: (kept?.pierces ?? []) as Pierce[] }
}

/** What hands do to a path: pierces moved or kept, contours put earlier or later. */
export function usePathByHand(cut: () => Cut | undefined, program: () => Program | undefined, order: () => number) {
  const queries = useQueryClient()
  const undo = useUndo()
  const lookedAt = ref<Key | undefined>()
  const looked = computed(() => {
    const [known, key] = [program(), lookedAt.value]
    const at = known && key ? known.passes.findIndex((p) => p.kind === 'cut' && isSame(keyOf(p), key)) : -1
    return at < 0 ? undefined : at
  })
  function look(index: number): void {
    const there = program()?.passes[index]
    const isOn = there && lookedAt.value && isSame(keyOf(there), lookedAt.value)
    lookedAt.value = there && !isOn ? keyOf(there) : undefined
  }
  const sheet = computed(() => program()?.number ?? 0)
  const kept = computed(() => keptOf(cut(), sheet.value))
  const contours = computed(() => {
    const known = program()
    return known ? contoursOf(known) : []
  })
  const run = computed(() => (looked.value === undefined ? undefined : program()?.passes[looked.value]))
  const place = computed(() => contours.value.findIndex((c) => run.value && isSame(keyOf(c), keyOf(run.value))))
  const places = computed<[number, number]>(() => (run.value ? placesFor(contours.value.map(keyOf), keyOf(run.value)) : [0, 0]))
  const isPierceKept = computed(() => !!run.value && kept.value.pierces.some((p) => isSame(p, keyOf(run.value as Run))))
  const isOrderKept = computed(() => kept.value.order.length > 0)

  /** Keep a sheet's order and pierces as they are made of those kept then, however fast it is asked for. */
  const putNow = undo.inTurn(async (order: number, sheet: number, what: string, to: (now: Kept) => Kept) => {
    const before = keptOf(queries.getQueryData<Cut>(['cut', order]), sheet)
    const send = (body: Kept) => async () => {
      const answer = await take<Cut>(
        client.PUT('/api/orders/{order}/cut/by-hand', { params: { path: { order } }, body: { sheet, ...body } }),
      )
      queries.setQueryData(['cut', order], answer)
      await queries.invalidateQueries({ predicate: (q) => ['order', 'packet'].includes(String(q.queryKey[0])) })
    }
    await undo.runNow({ what, make: send(to(before)), unmake: send(before) })
  })
  const put = (what: string, to: (now: Kept) => Kept) => putNow(order(), sheet.value, what, to)

  const others = (now: Kept, key: Key) => now.pierces.filter((p) => !isSame(p, key))

  async function movePierce(index: number, at: Point): Promise<void> {
    const moved = program()?.passes[index]
    if (!moved) return
    const key = keyOf(moved)
    await put('move a pierce', (now) => ({ ...now, pierces: [...others(now, key), [...key, at[0], at[1]]] }))
  }

  async function keepPierce(): Promise<void> {
    if (!run.value) return
    const [key, entry, isKept] = [keyOf(run.value), run.value.entry, isPierceKept.value]
    await put(isKept ? 'let a pierce be found' : 'lock a pierce', (now) => ({
      ...now,
      pierces: isKept ? others(now, key) : [...others(now, key), [...key, ...entry] as Pierce],
    }))
  }

  async function keepOrder(): Promise<void> {
    const keys = isOrderKept.value ? [] : contours.value.map(keyOf)
    await put(keys.length ? 'lock the order' : 'let the order be found', (now) => ({ ...now, order: keys }))
  }

  async function moveTo(to: number): Promise<void> {
    if (place.value < 0) return
    const keys = movedTo(contours.value.map(keyOf), place.value, to)
    await put('change the order', (now) => ({ ...now, order: keys }))
  }

  return { looked, look, run, place, places, contours, isPierceKept, isOrderKept, movePierce, keepPierce, keepOrder, moveTo }
}
