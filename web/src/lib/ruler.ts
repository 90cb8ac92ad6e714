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
  /** Distance from zero, mm or seconds. */
  at: number
  /** What stands at it; nothing at the fine marks. */
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

const SECONDS = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1200, 3600]

/** Even marks of seconds from 0 to `span`, at least 90 px apart at `px` px a second. */
export function secondMarks(span: number, px: number): Mark[] {
  const step = SECONDS.find((s) => s * px >= 90) ?? Math.ceil(span / 3600 / 6) * 3600
  const count = Math.floor(span / step + 1e-9)
  return Array.from({ length: count + 1 }, (_, i) => ({ at: i * step, figure: (i * step).toFixed(step < 1 ? 1 : 0) }))
}
