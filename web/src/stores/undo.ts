import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

import { tell } from '@/shell/tell'

export interface Change {
  what: string
  make: () => Promise<unknown>
  unmake: () => Promise<unknown>
}

/** Changes that were made here, newest last, so that each can be undone and done again. */
export const useUndo = defineStore('undo', () => {
  const done = ref<Change[]>([])
  const undone = ref<Change[]>([])

  async function run(change: Change): Promise<void> {
    try {
      await change.make()
      done.value = [...done.value.slice(-49), change]
      undone.value = []
    } catch (error) {
      tell(error)
    }
  }

  async function undo(): Promise<void> {
    const change = done.value.at(-1)
    if (!change) return
    try {
      await change.unmake()
      done.value = done.value.slice(0, -1)
      undone.value = [...undone.value, change]
    } catch (error) {
      tell(error)
    }
  }

  async function redo(): Promise<void> {
    const change = undone.value.at(-1)
    if (!change) return
    try {
      await change.make()
      undone.value = undone.value.slice(0, -1)
      done.value = [...done.value, change]
    } catch (error) {
      tell(error)
    }
  }
  const last = computed(() => done.value.at(-1)?.what ?? '')
  return { run, undo, redo, last, done, undone }
})
