import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import type { Nest } from '../src/api/types'

const server = vi.hoisted(() => ({
  nest: null as unknown as Nest,
  puts: [] as { seen: string; sheets: Nest['sheets'] }[],
  told: [] as unknown[],
  refetched: 0,
}))

vi.mock('@/shell/tell', () => ({ tell: (error: unknown) => server.told.push(error) }))
vi.mock('@tanstack/vue-query', () => ({
  useQueryClient: () => ({
    getQueryData: () => server.nest,
    setQueryData: (_: unknown, nest: Nest) => (server.nest = nest),
    invalidateQueries: ({ queryKey }: { queryKey?: string[] }) => {
      if (queryKey?.[0] === 'nest') server.refetched += 1
      return Promise.resolve()
    },
  }),
}))
vi.mock('@/api/client', () => ({
  take: (answer: Promise<unknown>) => answer,
  client: {
    /** Answers after a while, and only who has seen the nest as it is. */
    PUT: async (_: string, { body }: { body: { seen: string; sheets: Nest['sheets']; locked: Nest['locked'] } }) => {
      await new Promise((done) => setTimeout(done, 5))
      if (body.seen !== server.nest.digest) throw new Error('changed meanwhile')
      server.puts.push(body)
      const { sheets, locked } = body
      return { ...server.nest, sheets, locked, digest: JSON.stringify(sheets) }
    },
  },
}))

import { useHandwork } from '../src/stations/useHandwork'
import { useUndo } from '../src/stores/undo'

const place = (copy: number, x: number) => ({ part: 'strap', copy, x, y: 10, turn: 0, mirrored: false })

beforeEach(() => {
  setActivePinia(createPinia())
  const sheets = [
    { sheet: 's', number: 1, copies: 1, used_length: 300, utilisation: 0.5, placements: [place(1, 10), place(2, 200)] },
    { sheet: 's', number: 2, copies: 1, used_length: 100, utilisation: 0.1, placements: [place(3, 10)] },
  ]
  const parts = [{ id: 'strap', quantity: 4, width: 100, height: 50, middle: [50, 25], turns: [0, 90], may_mirror: true, path: '' }]
  const stock = [{ id: 's', width: 1000, height: 500, path: '', thickness: 1.5, material: 'steel' }]
  server.nest = { nest: 7, digest: 'first', sheets, parts, stock, locked: [], spacing: 5, margin: 10 } as unknown as Nest
  Object.assign(server, { puts: [], told: [], refetched: 0 })
})

const hands = () => useHandwork(() => server.nest, () => 1)
const at = (copy: number) => server.nest.sheets.flatMap((s) => s.placements).find((p) => p.copy === copy)

describe('handwork', () => {
  it('loses no nudge, however fast they come, and sends few', async () => {
    const { move, pick } = hands()
    pick('strap 1', false)
    await Promise.all(Array.from({ length: 8 }, () => move([5, -1])))
    expect([at(1)?.x, at(1)?.y, at(2)?.x]).toEqual([50, 2, 200])
    expect(server.puts.length).toBeLessThanOrEqual(2)
  })

  it('does what comes next on what came before', async () => {
    const { move, turn, toSheet, pick } = hands()
    pick('strap 1', false)
    await Promise.all([move([5, 0]), turn(1), toSheet(2), move([0, 30])])
    expect(server.nest.sheets.map((s) => s.placements.map((p) => p.copy))).toEqual([[2], [3, 1]])
    // Turned about its middle, which the moves have carried along.
    expect([at(1)?.turn, at(1)?.x, at(1)?.y]).toEqual([90, 15 + 50 + 25, 10 + 30 + 25 - 50])
  })

  it('leaves locked parts where they are', async () => {
    const { move, lock, pick, takeOff } = hands()
    pick('strap 1', false)
    await lock()
    pick('strap 2', true)
    await move([5, 0])
    await takeOff()
    expect([at(1)?.x, at(2)]).toEqual([10, undefined])
  })

  it('lays the first copy that lies nowhere, beside a like one', async () => {
    const { lay, takeOff, pick } = hands()
    pick('strap 2', false)
    await takeOff()
    await lay('strap', server.nest.sheets[1] as Nest['sheets'][number], at(3) as ReturnType<typeof place>)
    expect([at(2)?.x, at(2)?.y, server.nest.sheets[1]?.placements.length]).toEqual([15, 15, 2])
  })

  it('takes its own changes back one by one', async () => {
    const [{ move, pick }, undo] = [hands(), useUndo()]
    pick('strap 1', false)
    await move([5, 0])
    await move([0, 7])
    await undo.undo()
    await undo.undo()
    expect([at(1)?.x, at(1)?.y]).toEqual([10, 10])
    await undo.redo()
    expect(at(1)?.x).toBe(15)
    expect(server.told).toEqual([])
  })

  it('writes nothing over what another hand has done, and looks again', async () => {
    const [{ move, pick }, undo] = [hands(), useUndo()]
    pick('strap 1', false)
    await move([5, 0])
    server.nest = { ...server.nest, digest: 'somebody else' }
    await undo.undo()
    expect([at(1)?.x, server.told.length, server.refetched]).toEqual([15, 1, 1])
    await move([5, 0])
    expect(at(1)?.x).toBe(20)
  })
})
