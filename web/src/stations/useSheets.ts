import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { storeToRefs } from 'pinia'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { client, take } from '@/api/client'
import { sheetsQuery } from '@/api/queries'
import type { MarkupChange, Sheets } from '@/api/types'
import { tell } from '@/shell/tell'
import { useUndo } from '@/stores/undo'
import { useView } from '@/stores/view'

/** A change of what is added to a drawing, or what makes it of how that is when its turn comes. */
export type WantedMarkup = MarkupChange | ((now: Sheets) => MarkupChange)

/** A part's drawing on the paper chosen, and what is added to it by hand, which can be undone. */
export function useSheets(part: MaybeRefOrGetter<number>) {
  const queries = useQueryClient()
  const undo = useUndo()
  const { paper, drawnIn } = storeToRefs(useView())
  const asked = computed(() => ({ paper: paper.value, units: drawnIn.value }))
  const { data: sheets, error, isFetching, refetch } = useQuery(computed(() => sheetsQuery(toValue(part), asked.value)))

  const changeNow = undo.inTurn(async (at: number, what: string, wanted: WantedMarkup) => {
    const query = sheetsQuery(at, asked.value)
    const was = await queries.fetchQuery({ ...query, staleTime: Infinity })
    const body = typeof wanted === 'function' ? wanted(was) : wanted
    const moved = Object.fromEntries(Object.keys(body.moved ?? {}).map((bend) => [bend, was.markup.moved?.[bend] ?? null]))
    const back: MarkupChange = { moved }
    if (body.number !== undefined) back.number = was.markup.number ?? ''
    if (body.remarks !== undefined) back.remarks = [...(was.markup.remarks ?? [])]
    if (body.fields !== undefined) back.fields = { ...was.markup.fields }
    if (body.sizes !== undefined) back.sizes = was.markup.sizes ?? []
    // What this change, or taking it back, is made on: the sizes chosen before are part of it.
    let seen = was.seen
    const send = (change: MarkupChange) => async () => {
      try {
        const now = await take<Sheets>(client.PATCH('/api/parts/{part}/sheets', { params: { path: { part: at }, query: asked.value as object }, body: { ...change, seen } }))
        seen = now.seen
        queries.setQueryData(query.queryKey, now)
      } finally {
        await queries.invalidateQueries({ predicate: (q) => ['sheets', 'order', 'packet'].includes(String(q.queryKey[0])) })
      }
    }
    await undo.runNow({ what, make: send(body), unmake: send(back) })
  })

  function change(what: string, wanted: WantedMarkup): void {
    changeNow(toValue(part), what, wanted).catch(tell)
  }
  return { sheets, error, isFetching, refetch, change }
}
