import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

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
  const done = ref<Change[]>([])
  const undone = ref<Change[]>([])
  let before: Promise<unknown> = Promise.resolve()

  /** Do one thing after the other, however fast they are asked for: each begins from what the last has made. */
  function inTurn<A extends unknown[]>(work: (...args: A) => Promise<void>) {
    return (...args: A): Promise<void> => {
      const mine = before.then(() => work(...args))
      before = mine.catch(() => undefined)
      return mine
    }
  }

  /** Make a change at once: for work that has waited for its turn already. */
  async function runNow(change: Change): Promise<void> {
    try {
      await change.make()
      done.value = [...done.value.slice(-49), change]
      undone.value = []
    } catch (error) {
      tell(error)
    }
  }

  const undo = inTurn(async () => {
    const change = done.value.at(-1)
    if (!change) return
    try {
      await change.unmake()
      done.value = done.value.slice(0, -1)
      undone.value = [...undone.value, change]
    } catch (error) {
      if (isOvertaken(error)) done.value = done.value.slice(0, -1)
      tell(error)
    }
  })

  const redo = inTurn(async () => {
    const change = undone.value.at(-1)
    if (!change) return
    try {
      await change.make()
      undone.value = undone.value.slice(0, -1)
      done.value = [...done.value, change]
    } catch (error) {
      if (isOvertaken(error)) undone.value = undone.value.slice(0, -1)
      tell(error)
    }
  })
  const last = computed(() => done.value.at(-1)?.what ?? '')
  return { inTurn, runNow, run: inTurn(runNow), undo, redo, last, done, undone }
})
