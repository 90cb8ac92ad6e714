import { defineStore } from 'pinia'
import { computed, shallowRef, type ShallowRef } from 'vue'

import { Problem } from '@/api/problem'
import { tell } from '@/shell/tell'

export interface Change {
  what: string
  make: () => Promise<unknown>
  unmake: () => Promise<unknown>
}

/** Whether another hand has been at it since: then there is nothing to take back any more. */
const isOvertaken = (error: unknown) => error instanceof Problem && error.status === 409

/** Changes that were made here, newest last, so that each can be undone and done again. */
export const useUndo = defineStore('undo', () => {
  const done = shallowRef<Change[]>([])
  const undone = shallowRef<Change[]>([])
  let before: Promise<unknown> = Promise.resolve()

  /** Do one thing after the other, however fast they are asked for: each begins from what the last has made. */
  function inTurn<A extends unknown[]>(work: (...args: A) => Promise<void>) {
    return (...args: A): Promise<void> => {
      const mine = before.then(() => work(...args))
      before = mine.catch(() => undefined)
      return mine
    }
  }

  /**
   * Move a change from one list to the other while its work is done. It is moved at once, so that it
   * can be called back while the work is under way, and moved back when the work fails.
   */
  async function passed(change: Change, from: ShallowRef<Change[]>, to: ShallowRef<Change[]>, work: () => Promise<unknown>): Promise<void> {
    const others = (list: Change[]) => list.filter((other) => other !== change)
    from.value = others(from.value)
    to.value = [...to.value.slice(-49), change]
    try {
      await work()
    } catch (error) {
      to.value = others(to.value)
      if (!isOvertaken(error)) from.value = [...from.value, change]
      tell(error)
    }
  }

  /** Make a change at once: for work that has waited for its turn already. */
  async function runNow(change: Change): Promise<void> {
    const fresh = shallowRef<Change[]>([])
    await passed(change, fresh, done, change.make)
    if (done.value.includes(change)) undone.value = []
  }

  const undo = inTurn(async () => {
    const change = done.value.at(-1)
    if (change) await passed(change, done, undone, change.unmake)
  })

  const redo = inTurn(async () => {
    const change = undone.value.at(-1)
    if (change) await passed(change, undone, done, change.make)
  })
  const last = computed(() => done.value.at(-1)?.what ?? '')
  return { inTurn, runNow, run: inTurn(runNow), undo, redo, last, done, undone }
})
