import { MM_PER_INCH, shortLength, type Units } from './length'

const STEPS = {
  mm: [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000],
  in: [1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, 2, 5, 10, 20, 50, 100, 200].map((inches) => inches * MM_PER_INCH),
} as const

/** The least even step of the units, mm, whose marks stand at least `least` px apart at `px` px a mm. */
export function rulerStep(px: number, least: number, units: Units): number {
  const steps = STEPS[units]
  return steps.find((s) => s * px >= least) ?? Math.max(...steps)
}

export interface Mark {
  /** Distance from zero, mm. */
  at: number
  /** What stands at it, in the units; nothing at the fine marks. */
  figure: string
}

/** Marks of a ruler from 0 to `length` mm. */
export function rulerMarks(length: number, px: number, units: Units): Mark[] {
  const numbered = rulerStep(px, 56, units)
  const fine = rulerStep(px, 7, units)
  const count = Math.floor(length / fine + 1e-9)
  return Array.from({ length: count + 1 }, (_, i) => {
    const steps = (i * fine) / numbered
    return { at: i * fine, figure: Math.abs(steps - Math.round(steps)) < 1e-9 ? shortLength(i * fine, units) : '' }
  })
}
