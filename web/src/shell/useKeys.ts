import { onScopeDispose } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { STATIONS } from '@/router'
import { useUndo } from '@/stores/undo'
import { useView } from '@/stores/view'

function isTyping(target: EventTarget | null): boolean {
  const element = target instanceof HTMLElement ? target : null
  return !!element && (element.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(element.tagName))
}

/** Tell the views that listen: each key that concerns a view is an event of its name. */
function send(name: string): void {
  window.dispatchEvent(new CustomEvent(`kaigata:${name}`))
}

export const KEYS: readonly (readonly [string, string])[] = [
  ['1 – 6', 'stations'],
  ['j  k', 'next, previous part in the rack'],
  ['/', 'find'],
  ['f', 'play the fold'],
  ['t', 'turn over'],
  ['r', 'turn by 90°'],
  ['m', 'measure'],
  ['n', 'next finding'],
  ['u  shift+u', 'undo, redo'],
  ['0', 'fit'],
  ['arrows', 'on the nest: nudge by the spacing'],
  ['q  e', 'on the nest: turn by a step'],
  ['x  l', 'on the nest: mirror, lock'],
  ['backspace', 'on the nest: take off'],
  ['[  ]', 'hide rack, slip'],
  ['?', 'all keys'],
]

/** The keys of the whole program; they never fire while typing. */
export function useKeys(): void {
  const [router, route] = [useRouter(), useRoute()]
  const [view, undo] = [useView(), useUndo()]

  /** Keys that mean something on the nest only. */
  const onNest: Record<string, string> = {
    ArrowLeft: 'nudge-left',
    ArrowRight: 'nudge-right',
    ArrowUp: 'nudge-up',
    ArrowDown: 'nudge-down',
    q: 'turn-back',
    e: 'turn-on',
    x: 'mirror',
    l: 'lock',
    Backspace: 'take-off',
  }
  const own: Record<string, () => unknown> = {
    '/': () => send('find'),
    '0': () => send('fit'),
    '[': () => (view.isRackShown = !view.isRackShown),
    ']': () => (view.isSlipShown = !view.isSlipShown),
    '?': () => (view.isHelpShown = !view.isHelpShown),
    Escape: () => (view.isHelpShown = false),
    f: () => send('play'),
    t: () => send('turn-over'),
    r: () => send('turn'),
    m: () => send('measure'),
    n: () => send('finding'),
    j: () => send('next'),
    k: () => send('previous'),
    u: () => undo.undo(),
    U: () => undo.redo(),
  }

  function press(event: KeyboardEvent): void {
    if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return
    const station = STATIONS[Number(event.key) - 1]
    if (station && route.name === 'station') {
      void router.push({ name: 'station', params: { ...route.params, station } })
      return
    }
    const word = route.params.station === 'nest' ? onNest[event.key] : undefined
    const act = word ? () => send(word) : own[event.key]
    if (!act) return
    event.preventDefault()
    act()
  }
  window.addEventListener('keydown', press)
  onScopeDispose(() => window.removeEventListener('keydown', press))
}
