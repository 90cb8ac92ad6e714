import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { storeToRefs } from 'pinia'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { client, take } from '@/api/client'
import { sheetsQuery } from '@/api/queries'
import type { MarkupChange, Sheets } from '@/api/types'
import { tell } from '@/shell/tell'
import { useUndo } from '@/stores/undo'
import { useView } from '@/stores/view'

/** A part's drawing on the paper chosen, and what is added to it by hand, which can be undone. */
export function useSheets(part: MaybeRefOrGetter<number>) {
  const queries = useQueryClient()
  const undo = useUndo()
  const { paper, units } = storeToRefs(useView())
  const asked = computed(() => ({ paper: paper.value, units: units.value }))
  const { data: sheets, error, isFetching, refetch } = useQuery(computed(() => sheetsQuery(toValue(part), asked.value)))

  const changeNow = undo.inTurn(async (at: number, what: string, body: MarkupChange) => {
    const query = sheetsQuery(at, asked.value)
    const was = await queries.fetchQuery({ ...query, staleTime: Infinity })
    const moved = Object.fromEntries(Object.keys(body.moved ?? {}).map((bend) => [bend, was.markup.moved?.[bend] ?? null]))
    const back: MarkupChange = { ...(body.number === undefined ? {} : { number: was.markup.number }), ...(body.remarks === undefined ? {} : { remarks: [...(was.markup.remarks ?? [])] }), moved }
    const send = (change: MarkupChange) => async () => {
      try {
        const now = await take<Sheets>(client.PATCH('/api/parts/{part}/sheets', { params: { path: { part: at }, query: asked.value as object }, body: { ...change, seen: was.seen } }))
        queries.setQueryData(query.queryKey, now)
      } finally {
        await queries.invalidateQueries({ predicate: (q) => ['sheets', 'order', 'packet'].includes(String(q.queryKey[0])) })
      }
    }
    await undo.runNow({ what, make: send(body), unmake: send(back) })
  })

  function change(what: string, body: MarkupChange): void {
    changeNow(toValue(part), what, body).catch(tell)
  }
  return { sheets, error, isFetching, refetch, change }
}
