import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { ref } from 'vue'

import type { Blank, Cut, DrawnBend, Program } from '../src/api/types'

type Body = Record<string, unknown>

const server = vi.hoisted(() => ({ known: new Map<string, unknown>(), sent: [] as Body[], told: [] as unknown[], refuses: false, state: '' }))

vi.mock('@/shell/tell', () => ({ tell: (error: unknown) => server.told.push(error) }))
vi.mock('@tanstack/vue-query', () => ({
  queryOptions: (options: unknown) => options,
  useQuery: () => ({ data: { value: server.known.get('["blank",7]') } }),
  useQueryClient: () => ({
    fetchQuery: () => (server.refuses ? Promise.reject(new Error('silent')) : Promise.resolve(server.known.get('["blank",7]'))),
    getQueryData: (key: unknown) => server.known.get(JSON.stringify(key)),
    setQueryData: (key: unknown, data: unknown) => server.known.set(JSON.stringify(key), data),
    invalidateQueries: () => Promise.resolve(),
  }),
}))

/** Answers after a while, as a server does. */
async function answered(key: string, body: Body): Promise<unknown> {
  await new Promise((done) => setTimeout(done, 5))
  if (server.refuses) throw new Error('no')
  if (key === 'cut') return (server.sent.push(body), { by_hand: [body] })
  const { seen, ...change } = body
  if (seen !== undefined && seen !== server.state) throw new Problem({ status: 409, detail: 'changed meanwhile' })
  server.sent.push(change)
  return changed(change)
}

/** The blank as the server makes it of a change. */
function changed(body: Body): unknown {
  const was = server.known.get('["blank",7]') as Blank | undefined
  const order = body.sequence as number[] | undefined
  const bends = was?.bends.map((b) => (order ? { ...b, sequence: order.indexOf(b.id) + 1 } : b))
  const now = { ...was, ...body, bends }
  server.state = JSON.stringify([now.turn, now.is_turned_over, now.bends?.map((b) => b.sequence)])
  return { ...now, state: server.state }
}

vi.mock('@/api/client', () => ({
  take: (answer: Promise<unknown>) => answer,
  client: {
    PATCH: (_: string, { body }: { body: Body }) => answered('blank', body),
    PUT: (_: string, { body }: { body: Body }) => answered('cut', body),
  },
}))

import { Problem } from '../src/api/problem'
import { sequenceOf, useBlank } from '../src/stations/useBlank'
import { useGiven } from '../src/stations/useGiven'
import { usePathByHand } from '../src/stations/usePathByHand'
import { useUndo } from '../src/stores/undo'

const blank = () => server.known.get('["blank",7]') as Blank
const settled = () => useUndo().inTurn(() => Promise.resolve())()

beforeEach(() => {
  setActivePinia(createPinia())
  Object.assign(server, { sent: [], told: [], refuses: false, state: 'shown' })
  const bends = [1, 2, 3].map((id) => ({ id, sequence: id }))
  server.known = new Map<string, unknown>([
    ['["blank",7]', { state: 'shown', turn: 0, is_turned_over: false, corners: [], bend_rules: { 2: { radius: 1.5, k: null } }, bends }],
    ['["cut",1]', { by_hand: [] }],
  ])
})

describe('changes of a blank that come fast', () => {
  it('turn as often as they were asked to', async () => {
    const { change } = useBlank(7)
    for (let i = 0; i < 3; i += 1) change('Turn by 90°', (now) => ({ turn: (now.turn + 90) % 360 }))
    await settled()
    expect([blank().turn, server.sent.length]).toEqual([270, 3])
  })

  it('are undone one by one', async () => {
    const { change } = useBlank(7)
    for (let i = 0; i < 3; i += 1) change('Turn by 90°', (now) => ({ turn: (now.turn + 90) % 360 }))
    await useUndo().undo()
    expect(blank().turn).toBe(180)
    await useUndo().undo()
    expect(blank().turn).toBe(90)
  })

  it('move a bend on as many places as there were clicks', async () => {
    const { change } = useBlank(7)
    const later = (now: Blank) => {
      const order = sequenceOf(now)
      const from = order.indexOf(1)
      order.splice(from + 1, 0, ...order.splice(from, 1))
      return { sequence: order }
    }
    change('Bend sequence', later)
    change('Bend sequence', later)
    await settled()
    expect(sequenceOf(blank())).toEqual([2, 3, 1])
    await useUndo().undo()
    expect(sequenceOf(blank())).toEqual([2, 1, 3])
  })

  it('go to the part they were made on, whatever is looked at when their turn comes', async () => {
    const part = ref(7)
    const { change } = useBlank(part)
    change('Turn over', (now) => ({ is_turned_over: !now.is_turned_over }))
    part.value = 8
    await settled()
    expect(blank().is_turned_over).toBe(true)
  })

  it('are refused, and not taken back, where another window was faster', async () => {
    const { change } = useBlank(7)
    change('Turn by 90°', (now) => ({ turn: now.turn + 90 }))
    await settled()
    server.state = 'of another window'
    change('Turn by 90°', (now) => ({ turn: now.turn + 90 }))
    await settled()
    await useUndo().undo()
    expect([blank().turn, server.told.length, useUndo().last]).toEqual([90, 2, ''])
  })

  it('are told of where the blank cannot be fetched, and the next goes on', async () => {
    const { change } = useBlank(7)
    server.refuses = true
    change('Turn by 90°', (now) => ({ turn: now.turn + 90 }))
    await settled()
    expect([server.told.length, server.sent]).toEqual([1, []])
    server.refuses = false
    change('Turn by 90°', (now) => ({ turn: now.turn + 90 }))
    await settled()
    expect(blank().turn).toBe(90)
  })

  it('send nothing where nothing is left to change', async () => {
    useBlank(7).change('Corners', () => undefined)
    await settled()
    expect([server.sent, useUndo().last]).toEqual([[], ''])
  })

  it('give a bend back the radius it had', async () => {
    useBlank(7).changeBend(2, { bend_radius: 4 })
    await useUndo().undo()
    expect(server.sent).toEqual([{ bend: 2, bend_radius: 4 }, { bend: 2, bend_radius: 1.5 }])
  })
})

describe('what is given of a drawn part', () => {
  const drawn: DrawnBend[] = [{ angle: 90, radius: 1, up: true }, { angle: 90, radius: 1, up: true }]

  it('keeps an angle when the direction is clicked before the answer', async () => {
    const { bends, setBend } = useGiven(() => 7, () => drawn)
    const both = [setBend(0, { angle: 60 }), setBend(0, { up: false })]
    expect(bends.value[0]).toEqual({ angle: 60, radius: 1, up: false })
    await Promise.all(both)
    expect(server.sent.at(-1)).toEqual({ bends: [{ angle: 60, radius: 1, up: false }, drawn[1]] })
  })

  it('shows again what the server has when it was refused', async () => {
    server.refuses = true
    const { bends, setBend } = useGiven(() => 7, () => drawn)
    await setBend(1, { angle: 60 })
    expect([bends.value, server.told.length]).toEqual([drawn, 1])
  })
})

describe('a path changed by hand, fast', () => {
  const run = (name: string): Program['passes'][number] => ({
    kind: 'cut', goes_on: false, way: [[0, 0]], part: 'a', copy: 1, name, pierce: [0, 0], entry: [0, 0], end: [0, 0], path: '', lead: '', seconds: [0, 0, 1], length: 1,
  })
  const program: Program = { id: 1, number: 1, rapids: '', passes: [run('hole 1'), run('outer')] }

  it('loses neither a pierce that was dragged nor the next', async () => {
    const hand = usePathByHand(() => server.known.get('["cut",1]') as Cut, () => program, () => 1)
    await Promise.all([hand.movePierce(0, [1, 2]), hand.movePierce(1, [3, 4]), hand.keepOrder()])
    expect(server.sent.at(-1)).toEqual({
      sheet: 1,
      order: [['a', 1, 'hole 1'], ['a', 1, 'outer']],
      pierces: [['a', 1, 'hole 1', 1, 2], ['a', 1, 'outer', 3, 4]],
    })
    await useUndo().undo()
    expect(server.sent.at(-1)).toMatchObject({ order: [], pierces: [['a', 1, 'hole 1', 1, 2], ['a', 1, 'outer', 3, 4]] })
  })

  it('goes to the order it was made on, also when it is taken back from another', async () => {
    let order = 1
    const hand = usePathByHand(() => server.known.get('["cut",1]') as Cut, () => program, () => order)
    const moved = hand.movePierce(0, [1, 2])
    order = 2
    await moved
    await useUndo().undo()
    expect([...server.known.keys()]).toEqual(['["blank",7]', '["cut",1]'])
    expect(server.sent.map((body) => (body.pierces as unknown[]).length)).toEqual([1, 0])
  })
})
