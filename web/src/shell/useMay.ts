import { useQuery } from '@tanstack/vue-query'

import { whoQuery } from '@/api/queries'
import type { Right } from '@/api/types'

/** Whether who is signed in has a right; yes until it is known, as the server has the last word. */
export function useMay(): (right: Right) => boolean {
  const { data: who } = useQuery(whoQuery())
  return (right) => who.value?.rights.includes(right) ?? true
}
