import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

import { client, take } from '@/api/client'
import { blankQuery } from '@/api/queries'
import type { Blank } from '@/api/types'
import { useUndo } from '@/stores/undo'

type Settings = Partial<Pick<Blank, 'own_k' | 'anchor' | 'is_turned_over' | 'quarter_turns'>> & { sequence?: number[] }

/** A part's blank, and changes to how it is unfolded that can be undone. */
export function useBlank(part: MaybeRefOrGetter<number>) {
  const queries = useQueryClient()
  const undo = useUndo()
  const { data: blank, error, isFetching, refetch } = useQuery(computed(() => blankQuery(toValue(part))))

  async function send(at: number, body: Settings): Promise<void> {
    const now = await take<Blank>(client.PATCH('/api/parts/{part}/blank', { params: { path: { part: at } }, body }))
    queries.setQueryData(['blank', at], now)
    void queries.invalidateQueries({ predicate: (q) => ['rack', 'order', 'mesh', 'nest', 'cut', 'packet'].includes(String(q.queryKey[0])) })
  }

  function change(what: string, body: Settings): void {
    const [at, was] = [toValue(part), blank.value]
    if (!was) return
    const known: Settings = { ...was, sequence: sequenceOf(was) }
    const before = Object.fromEntries(Object.keys(body).map((k) => [k, known[k as keyof Settings]])) as Settings
    void undo.run({ what, make: () => send(at, body), unmake: () => send(at, before) })
  }
  return { blank, error, isFetching, refetch, change }
}

/** Bend numbers in the order they are bent. */
export function sequenceOf(blank: Blank): number[] {
  return [...blank.bends].sort((a, b) => a.sequence - b.sequence).map((b) => b.id)
}
