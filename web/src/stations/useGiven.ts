import { useQueryClient } from '@tanstack/vue-query'
import { computed, shallowRef, watch } from 'vue'

import { client, take } from '@/api/client'
import type { DrawnBend } from '@/api/types'
import { tell } from '@/shell/tell'
import { useUndo } from '@/stores/undo'

interface Given {
  unit?: 1 | 25.4
  thickness?: number
  bends?: DrawnBend[]
}

/** What is given of a drawn part: its unit, its thickness, and how each bend line is bent. */
export function useGiven(part: () => number, drawn: () => DrawnBend[] | undefined) {
  const queries = useQueryClient()
  const { inTurn } = useUndo()
  // The server takes all bends at once, so a change is made on what was given last, answered or not.
  const unanswered = shallowRef<DrawnBend[]>()
  const bends = computed(() => unanswered.value ?? drawn() ?? [])
  watch(part, () => (unanswered.value = undefined))

  const send = inTurn(async (at: number, body: Given) => {
    try {
      await take(client.PATCH('/api/parts/{part}/given', { params: { path: { part: at } }, body }))
    } catch (error) {
      tell(error)
    }
    await queries.invalidateQueries()
    if (unanswered.value === body.bends) unanswered.value = undefined
  })
  const give = (body: Given) => send(part(), body)

  function setBend(at: number, changed: Partial<DrawnBend>): Promise<void> {
    unanswered.value = bends.value.map((b, i) => (i === at ? { ...b, ...changed } : b))
    return give({ bends: unanswered.value })
  }
  return { bends, give, setBend }
}
