import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'

import { client, take } from '@/api/client'
import type { Nest } from '@/api/types'
import type { Point } from '@/drawing/apart'
import { useUndo } from '@/stores/undo'

type Sheet = Nest['sheets'][number]
type Placement = Sheet['placements'][number]

export const nameOf = (p: Pick<Placement, 'part' | 'copy'>) => `${p.part} ${p.copy}`

/** What hands do to a nest: each change is kept by the server at once and can be undone. */
export function useHandwork(shown: () => Nest | undefined, order: () => number) {
  const queries = useQueryClient()
  const undo = useUndo()
  const { inTurn } = undo
  const picked = ref<string[]>([])
  const locked = computed(() => (shown()?.locked ?? []).map(([part, copy]) => `${String(part)} ${String(copy)}`))
  // As the last answer had it, which the page shows a moment later.
  const nest = () => queries.getQueryData<Nest>(['nest', order()]) ?? shown()
  const isLocked = (p: Placement) => !!nest()?.locked.some(([part, copy]) => part === p.part && copy === p.copy)
  watch(
    () => shown()?.nest,
    () => (picked.value = []),
  )

  /** Keep sheets as they are now; what was before comes back by undo. */
  async function keep(what: string, sheets: Sheet[], lock = nest()?.locked ?? []): Promise<void> {
    const now = nest()
    if (!now?.nest) return
    const id = now.nest
    // What this change, or taking it back, is made on: if another hand has been at it, neither is.
    let seen = now.digest
    const put = (body: { sheets: Sheet[]; locked: Nest['locked'] }) => async () => {
      const sent = { params: { path: { nest: id } }, body: { ...body, seen } }
      try {
        const answer = await take<Nest>(client.PUT('/api/nests/{nest}/sheets', sent))
        seen = answer.digest
        queries.setQueryData(['nest', order()], answer)
      } catch (error) {
        await queries.invalidateQueries({ queryKey: ['nest'] })
        throw error
      }
      await queries.invalidateQueries({ predicate: (q) => ['order', 'cut', 'packet'].includes(String(q.queryKey[0])) })
    }
    const before = { sheets: now.sheets, locked: now.locked }
    await undo.runNow({ what, make: put({ sheets, locked: lock }), unmake: put(before) })
  }

  /** Change each picked placement that is not locked. */
  async function change(what: string, to: (p: Placement) => Placement): Promise<void> {
    const now = nest()
    if (!now) return
    const isMine = (p: Placement) => picked.value.includes(nameOf(p)) && !isLocked(p)
    await keep(
      what,
      now.sheets.map((s) => ({ ...s, placements: s.placements.map((p) => (isMine(p) ? to(p) : p)) })),
    )
  }

  /** Millimetres that wait to be moved by: a key held down goes faster than any answer. */
  let ahead: [number, number] | null = null
  const moveAhead = inTurn(async () => {
    const [x, y] = ahead ?? [0, 0]
    ahead = null
    await change('move', (p) => ({ ...p, x: p.x + x, y: p.y + y }))
  })

  async function move(by: Point): Promise<void> {
    const isWaiting = ahead !== null
    ahead = [(ahead?.[0] ?? 0) + by[0], (ahead?.[1] ?? 0) + by[1]]
    if (!isWaiting) await moveAhead()
  }

  const turn = inTurn((by: number) => change('turn', (p) => aboutMiddle(nest(), p, { turn: nextTurn(nest(), p, by) })))
  const turnTo = inTurn((degrees: number) => change('turn', (p) => aboutMiddle(nest(), p, { turn: ((degrees % 360) + 360) % 360 })))
  const mirror = inTurn(() => change('mirror', (p) => aboutMiddle(nest(), p, { mirrored: !p.mirrored })))

  const lock = inTurn(async () => {
    const now = nest()
    if (!now) return
    const rest = now.locked.filter(([part, copy]) => !picked.value.includes(`${String(part)} ${String(copy)}`))
    const mine = now.sheets.flatMap((s) => s.placements.filter((p) => picked.value.includes(nameOf(p))))
    const areAll = mine.every(isLocked)
    await keep(areAll ? 'unlock' : 'lock', now.sheets, areAll ? rest : [...rest, ...mine.map((p): [string, number] => [p.part, p.copy])])
  })

  const takeOff = inTurn(async () => {
    const now = nest()
    if (!now) return
    const isGone = (p: Placement) => picked.value.includes(nameOf(p)) && !isLocked(p)
    await keep('take off', now.sheets.map((s) => ({ ...s, placements: s.placements.filter((p) => !isGone(p)) })))
    picked.value = []
  })

  const toSheet = inTurn(async (number: number) => {
    const now = nest()
    if (!now) return
    const isMine = (p: Placement) => picked.value.includes(nameOf(p)) && !isLocked(p)
    const mine = now.sheets.flatMap((s) => (s.number === number ? [] : s.placements.filter(isMine)))
    await keep(
      `move to sheet ${String(number)}`,
      now.sheets.map((s) => ({
        ...s,
        placements: s.number === number ? [...s.placements, ...mine] : s.placements.filter((p) => !isMine(p)),
      })),
    )
  })

  /** Lay a copy from the tray on a sheet, right of what lies there, or beside a like one. */
  const lay = inTurn(async (part: string, sheet: Sheet, like?: Placement) => {
    const now = nest()
    const drawn = now?.parts.find((p) => p.id === part)
    const stock = now?.stock.find((s) => s.id === sheet.sheet)
    if (!now || !drawn || !stock) return
    const lying = new Set(now.sheets.flatMap((s) => s.placements.filter((p) => p.part === part).map((p) => p.copy)))
    const copy = Array.from({ length: drawn.quantity }, (_, i) => i + 1).find((c) => !lying.has(c))
    if (copy === undefined) return
    const right = Math.min(sheet.used_length - now.margin + now.spacing, stock.width - now.margin - drawn.width)
    const at = like
      ? { ...like, copy, x: like.x + now.spacing, y: like.y + now.spacing }
      : { part, copy, x: Math.max(now.margin, right), y: now.margin, turn: drawn.turns?.[0] ?? 0, mirrored: false }
    await keep(`lay ${part}`, now.sheets.map((s) => (s.number === sheet.number ? { ...s, placements: [...s.placements, at] } : s)))
    picked.value = [nameOf(at)]
  })

  function pick(id: string, isMore: boolean): void {
    if (!id) picked.value = []
    else if (!isMore) picked.value = [id]
    else picked.value = picked.value.includes(id) ? picked.value.filter((o) => o !== id) : [...picked.value, id]
  }
  return { picked, locked, pick, move, turn, turnTo, mirror, lock, takeOff, toSheet, lay }
}

const STEP = 90

/** The next turn a part may lie at; any step where it may lie at any. */
function nextTurn(nest: Nest | undefined, p: Placement, by: number): number {
  const turns = nest?.parts.find((o) => o.id === p.part)?.turns
  const now = p.turn ?? 0
  if (!turns) return (((now + by * (STEP / 6)) % 360) + 360) % 360
  const at = turns.findIndex((t) => Math.abs(t - now) < 1e-6)
  return turns[(at + by + turns.length) % turns.length] ?? now
}

/** A placement turned or mirrored about the middle of its part. */
function aboutMiddle(nest: Nest | undefined, p: Placement, how: Partial<Placement>): Placement {
  const part = nest?.parts.find((o) => o.id === p.part)
  if (!part) return p
  const after = { ...p, ...how }
  const [a, b] = [middle(part.middle, p), middle(part.middle, after)]
  return { ...after, x: p.x + a[0] - b[0], y: p.y + a[1] - b[1] }
}

/** Where the middle of a part comes to lie, from the placement's own point. */
function middle(at: readonly number[], p: Placement): Point {
  const t = ((p.turn ?? 0) * Math.PI) / 180
  const [x, y] = [(p.mirrored ? -1 : 1) * (at[0] ?? 0), at[1] ?? 0]
  return [x * Math.cos(t) - y * Math.sin(t), x * Math.sin(t) + y * Math.cos(t)]
}
