import { describe, expect, it } from 'vitest'

import { ADDABLE, fieldsOf, namesOf, saidAt, withFreeName, withName, withPressing, withSaid, type Step } from '../src/stations/recipeSteps'

const flange: Step = { do: 'flange', name: 'side', on: ['base.1', 'base.3'], length: 'height / 2' }
const hole: Step = { do: 'hole', panel: 'base', at: [20, 'depth / 2'], diameter: 8 }
const opening: Step = { do: 'opening', panel: 'base', at: [40, 40], rectangle: [40, 30] }
const fold: Step = { do: 'fold', name: 'wing', panel: 'base', line: [[60, 0], [60, 60]] }

function field(step: Step, path: string) {
  const found = fieldsOf(step).find((f) => f.path === path)
  if (!found) throw new Error(`no field ${path}`)
  return found
}

describe('the fields of a step', () => {
  it.each([
    [flange, 'length', 'height / 2'],
    [flange, 'on', 'base.1, base.3'],
    [flange, 'angle', '90'],
    [flange, 'ends.1', '0'],
    [flange, 'radius', ''],
    [{ do: 'panel', name: 'base', outline: [[0, 0], ['a / 2', 0, 1], [0, 9]] } as Step, 'outline', '0, 0; a / 2, 0, 1; 0, 9'],
    [hole, 'at.1', 'depth / 2'],
    [hole, 'repeat.columns', '1'],
    [{ ...hole, repeat: { without: [[2, 1], [3, 2]] } } as Step, 'repeat.without', '2/1, 3/2'],
  ])('show what is said, and what goes without saying (%#)', (step, path, said) => {
    expect(saidAt(step, field(step, path))).toBe(said)
  })

  it.each([
    [flange, 'length', ' 12.5 ', { length: 12.5 }],
    [flange, 'length', 'width - 2', { length: 'width - 2' }],
    [flange, 'radius', '', { radius: null }],
    [flange, 'on', 'base.2,wall.3', { on: ['base.2', 'wall.3'] }],
    [flange, 'ends.1', '7', { ends: [0, 7] }],
    [flange, 'relief.width', '3', { relief: { width: 3 } }],
    [hole, 'at.0', '-4', { at: [-4, 'depth / 2'] }],
    [hole, 'repeat.pitch.0', 'a / 3', { repeat: { pitch: ['a / 3', 0] } }],
    [hole, 'repeat.grow.1', '2', { repeat: { grow: [0, 2] } }],
    [hole, 'repeat.without', '2/1, 3/2', { repeat: { without: [[2, 1], [3, 2]] } }],
    [hole, 'press_in', 'press nut M4', { press_in: 'press nut M4' }],
    [opening, 'sides', '6', { sides: 6, across: 20, rectangle: null, outline: null }],
    [{ ...opening, sides: 6, across: 20, rectangle: null } as Step, 'sides', '', { sides: null, across: null, outline: null, rectangle: [60, 40] }],
    [hole, 'thread', 'M6', { thread: 'M6', diameter: null }],
    [flange, 'outline', '0, 0; width, 0; 20, 15.5', { outline: [[0, 0], ['width', 0], [20, 15.5]], length: null }],
    [{ ...flange, outline: [[0, 0], [9, 0], [0, 9]], length: null } as Step, 'outline', '', { outline: null, length: 30 }],
    [{ do: 'panel', name: 'base', rectangle: [9, 8] } as Step, 'outline', '0,0;9,0,0.5;0,9;', { outline: [[0, 0], [9, 0, 0.5], [0, 9]], rectangle: null }],
    [fold, 'line.1.0', 'width / 3', { line: [[60, 0], ['width / 3', 60]] }],
    [{ ...hole, thread: 'M6', diameter: null } as Step, 'diameter', '9', { thread: null, diameter: 9 }],
  ])('take what is typed and leave the rest (%#)', (step, path, typed, changed) => {
    const before = JSON.stringify(step)
    expect(withSaid(step, field(step, path), typed)).toEqual({ ...step, ...changed })
    expect(JSON.stringify(step)).toBe(before)
  })

  it('of a shape that is drawn has no width and depth', () => {
    const drawn: Step = { do: 'panel', name: 'base', outline: [[0, 0], [9, 0], [0, 9]] }
    expect(fieldsOf(drawn).map((f) => f.path)).toEqual(['name', 'outline'])
    const shaped: Step = { do: 'flange', name: 'ear', on: ['base.1'], outline: [[0, 0], [9, 0], [0, 9]] }
    expect(fieldsOf(shaped).map((f) => f.path)).not.toContain('length')
  })

  it('that is begun has a name of its own', () => {
    const named = (s: Step) => ('name' in s ? s.name : '')
    expect(named(withFreeName(fold, [flange, hole]))).toBe('wing')
    expect(named(withFreeName(fold, [fold, { ...fold, name: 'wing2' } as Step]))).toBe('wing3')
    expect(withFreeName(hole, [fold])).toBe(hole)
  })
})

describe('what is clicked in the view', () => {
  it('is added to the edges of a flange and taken away again, but for the last', () => {
    const more = withName(flange, 'base.2')
    expect(namesOf(more)).toEqual(['base.1', 'base.3', 'base.2'])
    expect(namesOf(withName(more, 'base.1'))).toEqual(['base.3', 'base.2'])
    const one: Step = { ...flange, on: ['base.1'] } as Step
    expect(withName(one, 'base.1')).toBe(one)
    expect(withName(flange, 'base')).toBe(flange)
  })

  it('is the panel of a hole and of corners, also by one of its edges', () => {
    expect(namesOf(withName(hole, 'side-1.3'))).toEqual(['side-1'])
    expect(namesOf(withName({ do: 'corners', of: 'base', how: 'open' }, 'lid'))).toEqual(['lid'])
  })
})

it('every step that can be added begins on what there is', () => {
  for (const { begin } of ADDABLE) {
    const step = begin('plate', 'plate.2')
    expect(namesOf(step).every((n) => n.startsWith('plate'))).toBe(true)
    for (const f of fieldsOf(step)) if (f.empty === undefined && f.kind !== 'choice') expect(saidAt(step, f), f.path).not.toBe('')
  }
})

describe('what Stores has to press', () => {
  const nut = { name: 'press nut M4', hole: 5.6, clear: 7 }
  it('gives a hole its diameter and the room it needs', () => {
    expect(withPressing({ ...hole, diameter: null, thread: 'M6' } as Step, nut)).toEqual({ ...hole, diameter: 5.6, thread: null, press_in: 'press nut M4', clear: 7 })
  })

  it('gives a form its footprint and its pilot hole', () => {
    const form: Step = { do: 'form', panel: 'base', at: [9, 9], note: 'dimple', diameter: 5 }
    expect(withPressing(form, { name: 'extruded hole M6', hole: 3.2, clear: 8 })).toEqual({ ...form, note: 'extruded hole M6', diameter: 16, pilot: 3.2 })
    expect(withPressing(fold, nut)).toBe(fold)
  })
})

describe('a profile', () => {
  const begins: Step = { do: 'profile', name: 'rail', section: [[0, 0], [40, 0], [40, 20]], width: 300, on: [] }
  const along: Step = { do: 'profile', name: 'rim', section: [[0, 0], [0, 30]], on: ['base.1'] }
  const paths = (step: Step) => fieldsOf(step).map((f) => f.path)

  it('that begins a part has a width, one along edges the edges', () => {
    expect(paths(begins)).toEqual(['name', 'section', 'width', 'metal'])
    expect(paths(along)).toContain('ends.0')
    expect(paths(along)).not.toContain('width')
  })

  it('takes edges that are clicked only where it runs along some', () => {
    expect(withName(along, 'base.2')).toMatchObject({ on: ['base.1', 'base.2'] })
    expect(withName(withName(along, 'base.2'), 'base.1')).toMatchObject({ on: ['base.2'] })
    expect(withName(along, 'base.1')).toBe(along)
    expect(withName(begins, 'base.2')).toBe(begins)
    expect([namesOf(along), namesOf(begins)]).toEqual([['base.1'], []])
  })
})

describe('creases', () => {
  const cross: Step = { do: 'crease', panel: 'base', cross: 15 }
  const paths = (step: Step) => fieldsOf(step).map((f) => f.path)

  it('run crosswise, or along a line once nothing is said of a cross', () => {
    expect(paths(cross)).toEqual(['panel', 'cross', 'note', 'direction'])
    const line = withSaid(cross, field(cross, 'cross'), '')
    expect(paths(line)).toContain('line.1.0')
    expect(line).toMatchObject({ cross: null, line: [[10, 10], [60, 60]] })
    expect(withSaid(line, field(line, 'cross'), '20')).toMatchObject({ cross: 20, line: null })
    expect(saidAt(cross, field(cross, 'note'))).toBe('crease')
  })
})

describe('a centred flange', () => {
  it('says no ends, and takes back those that were said', () => {
    const narrow = withSaid({ ...flange, ends: [3, 4] } as Step, field(flange, 'centred'), '40')
    expect(narrow).toMatchObject({ centred: 40, ends: [0, 0] })
    expect(fieldsOf(narrow).some((f) => f.path.startsWith('ends'))).toBe(false)
    expect(fieldsOf(withSaid(narrow, field(narrow, 'centred'), '')).some((f) => f.path === 'ends.1')).toBe(true)
  })
})
