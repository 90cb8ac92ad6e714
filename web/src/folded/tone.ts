import { Color } from 'three'

/** A colour of the page's own, as it is in this shift. */
export const tone = (name: string): Color => new Color(getComputedStyle(document.documentElement).getPropertyValue(name).trim())

/** The colours of a folded part: its sides, of which the one that lies up is lighter, its rim and edges, what is marked on it, and what is lit. */
export const faceTones = () => ({
  up: tone('--face-up'),
  down: tone('--face-down'),
  rim: tone('--face-rim'),
  edge: tone('--face-edge'),
  mark: tone('--mark'),
  chosen: tone('--face-chosen'),
  hurt: tone('--face-hurt'),
})
export type FaceTones = ReturnType<typeof faceTones>
