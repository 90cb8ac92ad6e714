import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'

/** Whether a station shows something in place of its usual views: it stands in its address. */
export function useShown(what: 'drawing' | 'assembly') {
  const [route, router] = [useRoute(), useRouter()]
  return computed({
    get: () => route.query.show === what,
    set: (is: boolean) => void router.replace({ query: { ...route.query, show: is ? what : undefined } }),
  })
}
