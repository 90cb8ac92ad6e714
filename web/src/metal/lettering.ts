import type { Lettering } from '@/api/types'

export type NoteField = NonNullable<Lettering['note']>[number]
export type Fact = NoteField['says']

/** What can be said of a bend, as the trade calls it. */
export const FACTS: Record<Fact, string> = {
  direction: 'direction', angle: 'angle turned', included: 'angle included', radius: 'inside radius', k: 'K',
  allowance: 'allowance', deduction: 'deduction', 'from-edge': 'from edge', length: 'length', sequence: 'place in sequence',
}

export type TitleField = NonNullable<Lettering['required']>[number]

/** What of a title block may be left open, as the trade calls it. */
export const TITLE_FIELDS: Record<TitleField, string> = { number: 'drawing number', material: 'material', mass: 'mass', tolerance: 'general tolerance', drawn: 'drawn by' }

const SAMPLE: Record<Fact, string> = {
  direction: 'up', angle: '90°', included: '90°', radius: '2', k: '.44', allowance: '4.52', deduction: '3.48', 'from-edge': '60', length: '100', sequence: '1',
}

/** How a note would read beside a bend of 90 degrees, its lines apart. */
export function sampleNote(note: readonly NoteField[]): string[] {
  const lines = ['']
  for (const field of note) {
    const text = `${field.before ?? ''}${SAMPLE[field.says]}${field.after ?? ''}`
    if (field.new_line && lines.at(-1)) lines.push(text)
    else lines[lines.length - 1] += text
  }
  return lines.map((line) => line.trim()).filter((line) => line)
}

export type OwnField = NonNullable<Lettering['fields']>[number]

/** A name for one more field, unlike those there are. */
export function newLabel(labels: readonly string[]): string {
  let n = 1
  while (labels.includes(`Field ${String(n)}`)) n++
  return `Field ${String(n)}`
}

/** The same list with an item one place earlier; the first stays. */
export function earlier<T>(list: readonly T[], at: number): T[] {
  const out = [...list]
  const [item] = out.splice(at, 1)
  if (item !== undefined) out.splice(Math.max(0, at - 1), 0, item)
  return out
}
