import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { client, take } from '@/api/client'
import { blankQuery } from '@/api/queries'
import type { Blank, BlankChange } from '@/api/types'
import { tell } from '@/shell/tell'
import { useUndo } from '@/stores/undo'

/** A change of a blank, or what makes it of how the blank is when its turn comes. */
export type Wanted = BlankChange | ((now: Blank) => BlankChange | undefined)
const of = (wanted: Wanted | undefined, now: Blank) => (typeof wanted === 'function' ? wanted(now) : wanted)

/** A part's blank, and changes to how it is unfolded that can be undone. */
export function useBlank(part: MaybeRefOrGetter<number>) {
  const queries = useQueryClient()
  const undo = useUndo()
  const { data: blank, error, isFetching, refetch } = useQuery(computed(() => blankQuery(toValue(part))))

  async function refresh(): Promise<void> {
    await queries.invalidateQueries({ predicate: (q) => ['rack', 'order', 'mesh', 'sheets', 'nest', 'cut', 'packet'].includes(String(q.queryKey[0])) })
  }

  /** Each change begins from what the last has made, however fast they come. */
  const changeNow = undo.inTurn(async (at: number, what: string, wanted: Wanted, before?: Wanted) => {
    // What another change of this page has made old is fetched anew; what another window did, is not.
    const was = await queries.fetchQuery({ ...blankQuery(at), staleTime: Infinity })
    const body = of(wanted, was)
    if (!body) return
    const known: Record<string, unknown> = { ...was, sequence: sequenceOf(was) }
    const back = of(before, was) ?? (Object.fromEntries(Object.keys(body).map((k) => [k, known[k]])) as BlankChange)
    // What this change, or taking it back, is made on: bends and corners are named by how the blank lies.
    let seen = was.state
    const send = (change: BlankChange) => async () => {
      const sent = { params: { path: { part: at } }, body: { ...change, seen } }
      try {
        const now = await take<Blank>(client.PATCH('/api/parts/{part}/blank', sent))
        seen = now.state
        queries.setQueryData(['blank', at], now)
      } catch (error) {
        await queries.invalidateQueries({ queryKey: ['blank', at] })
        throw error
      }
      void refresh()
    }
    await undo.runNow({ what, make: send(body), unmake: send(back) })
  })

  /**
   * Change the blank: to a value, or to what is made of how it is then. `before` says how it is
   * undone where that is not plain from the fields.
   */
  function change(what: string, wanted: Wanted, before?: Wanted): void {
    // Fetching it anew may fail before there is a change to be made.
    changeNow(toValue(part), what, wanted, before).catch(tell)
  }

  /** Give one bend its own radius or factor, or the chart's again. */
  function changeBend(bend: number, own: { bend_radius?: number; bend_k?: number } | null): void {
    change(`Bend ${bend}`, own ? { bend, ...own } : { bend, clear_bend: true }, (was) => {
      const rule = was.bend_rules[String(bend)]
      if (!rule) return { bend, clear_bend: true }
      const [radius, k] = [rule.radius ?? undefined, rule.k ?? undefined]
      return { bend, ...(radius === undefined ? {} : { bend_radius: radius }), ...(k === undefined ? {} : { bend_k: k }) }
    })
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
