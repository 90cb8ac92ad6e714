import type { NetsAnswer } from '@/api/types'

import type { Step } from './recipeSteps'

export type ShellStep = Extract<Step, { do: 'shell' }>
type Face = NetsAnswer['faces'][number]

/** What a face could hang on: faces beside it that are of metal and do not hang on it themselves. */
export function holdersOf(faces: readonly Face[], face: Face): string[] {
  const below = new Set([face.name])
  for (let grown = true; grown; ) {
    const more = faces.filter((f) => f.hangs_on !== null && below.has(f.hangs_on) && !below.has(f.name))
    more.forEach((f) => below.add(f.name))
    grown = more.length > 0
  }
  const isOpen = new Set(faces.filter((f) => f.is_open).map((f) => f.name))
  return [...new Set(face.beside.map((b) => b.face))].filter((name) => !below.has(name) && !isOpen.has(name))
}

/** The step with a face hung on another; all others stay where they are. */
export function withHolder(step: ShellStep, faces: readonly Face[], face: string, holder: string): ShellStep {
  const anchor = faces.find((f) => !f.is_open && f.hangs_on === null)?.name ?? null
  const bent = faces.flatMap((f): [string, string][] => (f.hangs_on === null ? [] : [[f.name === face ? holder : f.hangs_on, f.name]]))
  return { ...step, anchor, bent }
}

/** The step with a face left open, or closed again; what is bent is chosen anew. */
export function withOpen(step: ShellStep, face: string, isOpen: boolean): ShellStep {
  const others = (step.open ?? []).filter((f) => f !== face)
  return { ...step, open: isOpen ? [...others, face] : others, bent: null, anchor: step.anchor === face ? null : step.anchor }
}

/** The step with the edges bent as in a net. */
export const withNet = (step: ShellStep, bent: ShellStep['bent']): ShellStep => ({ ...step, bent })

/** Whether the same faces are bent to each other. */
export function isNet(faces: readonly Face[], bent: readonly (readonly string[])[]): boolean {
  const key = (pair: readonly string[]) => [...pair].sort().join('|')
  const now = new Set(faces.flatMap((f) => (f.hangs_on === null ? [] : [key([f.name, f.hangs_on])])))
  return bent.length === now.size && bent.every((pair) => now.has(key(pair)))
}
