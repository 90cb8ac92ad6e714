import { onScopeDispose } from 'vue'

/** Do something when a key or a control sends its name. */
export function useSignal(name: string, act: () => unknown): void {
  window.addEventListener(`kaigata:${name}`, act)
  onScopeDispose(() => window.removeEventListener(`kaigata:${name}`, act))
}
