import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { client, take } from '@/api/client'
import type { Cut, Program } from '@/api/types'
import type { Point } from '@/drawing/apart'
import { useUndo } from '@/stores/undo'

import { contoursOf, isSame, keyOf, movedTo, type Key } from './contourOrder'

type Pierce = [string, number, string, number, number]
type Run = Program['passes'][number]

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
  const kept = computed(() => cut()?.by_hand.find((h) => h.sheet === sheet.value))
  const contours = computed(() => {
    const known = program()
    return known ? contoursOf(known) : []
  })
  const run = computed(() => (looked.value === undefined ? undefined : program()?.passes[looked.value]))
  const place = computed(() => contours.value.findIndex((c) => run.value && isSame(keyOf(c), keyOf(run.value))))
  const isPierceKept = computed(() => !!run.value && (kept.value?.pierces ?? []).some((p) => isSame(p, keyOf(run.value as Run))))
  const isOrderKept = computed(() => (kept.value?.order?.length ?? 0) > 0)

  async function put(what: string, keys: Key[], pierces: Pierce[]): Promise<void> {
    const number = sheet.value
    const before = { order: (kept.value?.order ?? []) as Key[], pierces: (kept.value?.pierces ?? []) as Pierce[] }
    const send = (body: { order: Key[]; pierces: Pierce[] }) => async () => {
      const answer = await take<Cut>(
        client.PUT('/api/orders/{order}/cut/by-hand', { params: { path: { order: order() } }, body: { sheet: number, ...body } }),
      )
      queries.setQueryData(['cut', order()], answer)
      await queries.invalidateQueries({ predicate: (q) => ['order', 'packet'].includes(String(q.queryKey[0])) })
    }
    await undo.run({ what, make: send({ order: keys, pierces }), unmake: send(before) })
  }

  const others = (key: Key) => ((kept.value?.pierces ?? []) as Pierce[]).filter((p) => !isSame(p, key))
  const orderNow = () => (kept.value?.order ?? []) as Key[]

  async function movePierce(index: number, at: Point): Promise<void> {
    const moved = program()?.passes[index]
    if (!moved) return
    await put('move a pierce', orderNow(), [...others(keyOf(moved)), [...keyOf(moved), at[0], at[1]]])
  }

  async function keepPierce(): Promise<void> {
    if (!run.value) return
    const key = keyOf(run.value)
    const pierces = isPierceKept.value ? others(key) : [...others(key), [...key, ...run.value.entry] as Pierce]
    await put(isPierceKept.value ? 'let a pierce be found' : 'lock a pierce', orderNow(), pierces)
  }

  async function keepOrder(): Promise<void> {
    await put(isOrderKept.value ? 'let the order be found' : 'lock the order', isOrderKept.value ? [] : contours.value.map(keyOf), (kept.value?.pierces ?? []) as Pierce[])
  }

  async function moveTo(to: number): Promise<void> {
    if (place.value < 0) return
    await put('change the order', movedTo(contours.value.map(keyOf), place.value, to), (kept.value?.pierces ?? []) as Pierce[])
  }

  return { looked, look, run, place, contours, isPierceKept, isOrderKept, movePierce, keepPierce, keepOrder, moveTo }
}
