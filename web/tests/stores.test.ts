import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'

const told = vi.hoisted(() => vi.fn())
vi.mock('@/shell/tell', () => ({ tell: told }))

import { asProblem, Problem, SILENT } from '../src/api/problem'
import { useSelection } from '../src/stores/selection'
import { useUndo, type Change } from '../src/stores/undo'

beforeEach(() => {
  setActivePinia(createPinia())
  told.mockClear()
})

/** A change of a list that can be taken back. */
function adding(list: string[], what: string): Change {
  return {
    what,
    make: () => Promise.resolve(list.push(what)),
    unmake: () => Promise.resolve(list.splice(list.lastIndexOf(what), 1)),
  }
}

const failing: Change = { what: 'fails', make: () => Promise.reject(new Error('no')), unmake: () => Promise.resolve() }

describe('undo', () => {
  it('takes changes back and makes them again, newest first', async () => {
    const [undo, list] = [useUndo(), [] as string[]]
    for (const what of ['a', 'b', 'c']) await undo.run(adding(list, what))
    expect(undo.last).toBe('c')
    await undo.undo()
    await undo.undo()
    expect(list).toEqual(['a'])
    await undo.redo()
    expect([list, undo.last]).toEqual([['a', 'b'], 'b'])
  })

  it('takes as many back as it is asked to, however fast', async () => {
    const [undo, list] = [useUndo(), [] as string[]]
    for (const what of ['a', 'b', 'c']) await undo.run(adding(list, what))
    await Promise.all([undo.undo(), undo.undo(), undo.redo(), undo.run(adding(list, 'd')), undo.undo(), undo.undo()])
    expect([list, undo.last]).toEqual([['a'], 'a'])
  })

  it('forgets what was undone once something else is done', async () => {
    const [undo, list] = [useUndo(), [] as string[]]
    await undo.run(adding(list, 'a'))
    await undo.undo()
    await undo.run(adding(list, 'b'))
    await undo.redo()
    expect(list).toEqual(['b'])
  })

  it('keeps nothing of a change that failed, and says it', async () => {
    const undo = useUndo()
    await undo.run(failing)
    expect([undo.done.length, told.mock.calls.length]).toEqual([0, 1])
  })

  it('can still undo what could not be undone once', async () => {
    const [undo, list] = [useUndo(), [] as string[]]
    const change = adding(list, 'a')
    const unmake = vi.spyOn(change, 'unmake').mockRejectedValueOnce(new Error('no'))
    await undo.run(change)
    await undo.undo()
    expect([list, undo.last, told.mock.calls.length]).toEqual([['a'], 'a', 1])
    await undo.undo()
    expect([list, unmake.mock.calls.length]).toEqual([[], 2])
  })

  it('can be asked for while the change is still being made, and waits for that', async () => {
    const [undo, list] = [useUndo(), [] as string[]]
    let answer: () => void = () => undefined
    const slow = adding(list, 'a')
    const made = undo.run({ ...slow, make: () => new Promise<void>((done) => (answer = done)).then(slow.make) })
    await Promise.resolve()
    expect([undo.last, list]).toEqual(['a', []])
    const undone = undo.undo()
    answer()
    await Promise.all([made, undone])
    expect([list, undo.last, undo.undone.length]).toEqual([[], '', 1])
  })

  it('does nothing where there is nothing, and remembers fifty', async () => {
    const [undo, list] = [useUndo(), [] as string[]]
    await undo.undo()
    await undo.redo()
    for (let i = 0; i < 60; i += 1) await undo.run(adding(list, String(i)))
    expect([undo.done.length, undo.done[0]?.what]).toEqual([50, '10'])
  })
})

describe('selection', () => {
  it('shows the bend under the pointer before the chosen one', () => {
    const chosen = useSelection()
    chosen.bend = 3
    expect(chosen.shownBend).toBe(3)
    chosen.hoveredBend = 5
    expect(chosen.shownBend).toBe(5)
  })

  it('picks one thing at a time, and the same again is none', () => {
    const chosen = useSelection()
    chosen.pick('edge')
    chosen.pick('measure')
    expect(chosen.picking).toBe('measure')
    chosen.pick('measure')
    expect(chosen.picking).toBe('')
  })

  it('measures between two points; a third begins anew', () => {
    const chosen = useSelection()
    for (const x of [1, 2, 3]) chosen.measure({ p: [x, 0, 0], panel: null, normal: null })
    expect(chosen.measured.map((m) => m.p[0])).toEqual([3])
  })

  it('is empty once cleared', () => {
    const chosen = useSelection()
    chosen.bend = chosen.panel = chosen.finding = 1
    chosen.pick('anchor')
    chosen.clear()
    expect([chosen.bend, chosen.panel, chosen.finding, chosen.picking, chosen.shownBend]).toEqual([null, null, null, '', null])
  })
})

describe('a problem', () => {
  it('says what, where and what to do', () => {
    const problem = new Problem({ detail: 'K is 1.5', where: 'line 3', fix: 'Give less', status: 422 })
    expect([problem.message, problem.where, problem.fix, problem.status]).toEqual(['K is 1.5', 'line 3', 'Give less', 422])
  })

  it('is made of anything that was thrown', () => {
    expect(asProblem(SILENT)).toBe(SILENT)
    expect(asProblem(new TypeError('x is undefined')).message).toContain('x is undefined')
  })
})
