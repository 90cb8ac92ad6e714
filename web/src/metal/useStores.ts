import { useQueryClient } from '@tanstack/vue-query'

import { tell } from '@/shell/tell'

/** Changes to Stores: told when they fail, and everything is looked at again. */
export function useStores() {
  const queries = useQueryClient()
  return async function change(call: Promise<unknown>): Promise<boolean> {
    try {
      await call
      return true
    } catch (fault) {
      tell(fault)
      return false
    } finally {
      await queries.invalidateQueries()
    }
  }
}
