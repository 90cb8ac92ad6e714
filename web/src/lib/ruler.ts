const STEPS = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000]

/** The least even step, mm, whose marks stand at least `least` px apart at `px` px a mm. */
export function rulerStep(px: number, least: number): number {
  return STEPS.find((s) => s * px >= least) ?? 5000
}

export interface Mark {
  at: number
  isNumbered: boolean
}

/** Marks of a ruler from 0 to `length` mm. */
export function rulerMarks(length: number, px: number): Mark[] {
  const numbered = rulerStep(px, 56)
  const fine = rulerStep(px, 7)
  const count = Math.floor(length / fine + 1e-9)
  return Array.from({ length: count + 1 }, (_, i) => ({
    at: i * fine,
    isNumbered: Math.abs((i * fine) % numbered) < 1e-9,
  }))
}
