import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { client, take } from '@/api/client'
import { blankQuery } from '@/api/queries'
import type { Blank, BlankChange } from '@/api/types'
import { useUndo } from '@/stores/undo'

/** A part's blank, and changes to how it is unfolded that can be undone. */
export function useBlank(part: MaybeRefOrGetter<number>) {
  const queries = useQueryClient()
  const undo = useUndo()
  const { data: blank, error, isFetching, refetch } = useQuery(computed(() => blankQuery(toValue(part))))

  async function refresh(): Promise<void> {
    await queries.invalidateQueries({ predicate: (q) => ['rack', 'order', 'mesh', 'nest', 'cut', 'packet'].includes(String(q.queryKey[0])) })
  }

  async function send(at: number, body: BlankChange): Promise<void> {
    const now = await take<Blank>(client.PATCH('/api/parts/{part}/blank', { params: { path: { part: at } }, body }))
    queries.setQueryData(['blank', at], now)
    void refresh()
  }

  /** Change the blank; `before` says how it is undone where that is not plain from the fields. */
  function change(what: string, body: BlankChange, before?: BlankChange): void {
    const [at, was] = [toValue(part), blank.value]
    if (!was) return
    const known: Record<string, unknown> = { ...was, sequence: sequenceOf(was) }
    const back = before ?? (Object.fromEntries(Object.keys(body).map((k) => [k, known[k]])) as BlankChange)
    void undo.run({ what, make: () => send(at, body), unmake: () => send(at, back) })
  }

  /** Give one bend its own radius or factor, or the chart's again. */
  function changeBend(bend: number, own: { bend_radius?: number; bend_k?: number } | null): void {
    const rule = blank.value?.bend_rules[String(bend)]
    const had = rule
      ? { bend, ...(rule.radius === null || rule.radius === undefined ? {} : { bend_radius: rule.radius }), ...(rule.k === null || rule.k === undefined ? {} : { bend_k: rule.k }) }
      : { bend, clear_bend: true }
    change(`Bend ${bend}`, own ? { bend, ...own } : { bend, clear_bend: true }, had)
  }
  return { blank, error, isFetching, refetch, change, changeBend }
}

/** Bend numbers in the order they are bent. */
export function sequenceOf(blank: Blank): number[] {
  return [...blank.bends].sort((a, b) => a.sequence - b.sequence).map((b) => b.id)
}

/** What the folded view depends on, so that it is made anew when that changes. */
export function foldDigest(blank: Blank | undefined): string {
  if (!blank) return ''
  const { anchor, is_turned_over, turn, revision, bends } = blank
  return JSON.stringify([anchor, is_turned_over, turn, revision, bends.map((b) => [b.k, b.inside_radius, b.angle, b.direction])])
}
