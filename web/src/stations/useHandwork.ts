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
export function useHandwork(nest: () => Nest | undefined, order: () => number) {
  const queries = useQueryClient()
  const undo = useUndo()
  const picked = ref<string[]>([])
  const locked = computed(() => (nest()?.locked ?? []).map(([part, copy]) => `${String(part)} ${String(copy)}`))
  watch(
    () => nest()?.nest,
    () => (picked.value = []),
  )

  /** Keep sheets as they are now; what was before comes back by undo. */
  async function keep(what: string, sheets: Sheet[], lock = nest()?.locked ?? []): Promise<void> {
    const now = nest()
    if (!now?.nest) return
    const id = now.nest
    const put = (body: { sheets: Sheet[]; locked: Nest['locked'] }) => async () => {
      const answer = await take<Nest>(client.PUT('/api/nests/{nest}/sheets', { params: { path: { nest: id } }, body }))
      queries.setQueryData(['nest', order()], answer)
      await queries.invalidateQueries({ predicate: (q) => ['order', 'cut', 'packet'].includes(String(q.queryKey[0])) })
    }
    const before = { sheets: now.sheets, locked: now.locked }
    await undo.run({ what, make: put({ sheets, locked: lock }), unmake: put(before) })
  }

  /** Change each picked placement that is not locked. */
  async function change(what: string, to: (p: Placement) => Placement): Promise<void> {
    const now = nest()
    if (!now) return
    const isMine = (p: Placement) => picked.value.includes(nameOf(p)) && !locked.value.includes(nameOf(p))
    await keep(
      what,
      now.sheets.map((s) => ({ ...s, placements: s.placements.map((p) => (isMine(p) ? to(p) : p)) })),
    )
  }

  const move = (by: Point) => change('move', (p) => ({ ...p, x: p.x + by[0], y: p.y + by[1] }))
  const turn = (by: number) => change('turn', (p) => aboutMiddle(nest(), p, { turn: nextTurn(nest(), p, by) }))
  const turnTo = (degrees: number) => change('turn', (p) => aboutMiddle(nest(), p, { turn: ((degrees % 360) + 360) % 360 }))
  const mirror = () => change('mirror', (p) => aboutMiddle(nest(), p, { mirrored: !p.mirrored }))

  async function lock(): Promise<void> {
    const now = nest()
    if (!now) return
    const areAll = picked.value.every((id) => locked.value.includes(id))
    const rest = now.locked.filter(([part, copy]) => !picked.value.includes(`${String(part)} ${String(copy)}`))
    const mine = now.sheets.flatMap((s) => s.placements.filter((p) => picked.value.includes(nameOf(p))))
    await keep(areAll ? 'unlock' : 'lock', now.sheets, areAll ? rest : [...rest, ...mine.map((p): [string, number] => [p.part, p.copy])])
  }

  async function takeOff(): Promise<void> {
    const now = nest()
    if (!now) return
    const isGone = (p: Placement) => picked.value.includes(nameOf(p)) && !locked.value.includes(nameOf(p))
    await keep('take off', now.sheets.map((s) => ({ ...s, placements: s.placements.filter((p) => !isGone(p)) })))
    picked.value = []
  }

  async function toSheet(number: number): Promise<void> {
    const now = nest()
    if (!now) return
    const isMine = (p: Placement) => picked.value.includes(nameOf(p)) && !locked.value.includes(nameOf(p))
    const mine = now.sheets.flatMap((s) => (s.number === number ? [] : s.placements.filter(isMine)))
    await keep(
      `move to sheet ${String(number)}`,
      now.sheets.map((s) => ({
        ...s,
        placements: s.number === number ? [...s.placements, ...mine] : s.placements.filter((p) => !isMine(p)),
      })),
    )
  }

  /** Lay a copy from the tray on a sheet, right of what lies there, or beside a like one. */
  async function lay(part: string, sheet: Sheet, like?: Placement): Promise<void> {
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
  }

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
