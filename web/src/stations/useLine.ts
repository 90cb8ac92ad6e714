import { useQueryClient } from '@tanstack/vue-query'

import { client, take } from '@/api/client'
import type { RackLine } from '@/api/types'
import { useUndo } from '@/stores/undo'

type LineChange = Partial<Pick<RackLine, 'quantity' | 'name' | 'priority' | 'is_filler' | 'may_mirror'> & { material: string }>

/** Changes to a line of an order that can be undone. */
export function useLine() {
  const queries = useQueryClient()
  const undo = useUndo()

  async function refresh(): Promise<void> {
    await queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'stores' && q.queryKey[0] !== 'who' })
  }

  async function send(line: number, body: LineChange): Promise<void> {
    await take(client.PATCH('/api/lines/{line}', { params: { path: { line } }, body }))
    await refresh()
  }

  function change(line: RackLine, what: string, body: LineChange, before: LineChange): void {
    void undo.run({ what, make: () => send(line.id, body), unmake: () => send(line.id, before) })
  }

  async function takeOut(line: RackLine): Promise<void> {
    await take(client.DELETE('/api/lines/{line}', { params: { path: { line: line.id } } }))
    await refresh()
  }

  /** Want so many sets of the file a line came with. */
  function makeSets(line: RackLine, sets: number, before: number): void {
    const put = async (n: number) => {
      await take(client.PUT('/api/lines/{line}/sets', { params: { path: { line: line.id } }, body: { sets: n } }))
      await refresh()
    }
    void undo.run({ what: 'Sets', make: () => put(sets), unmake: () => put(before) })
  }
  return { change, takeOut, makeSets }
}
