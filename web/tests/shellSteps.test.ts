import { describe, expect, it } from 'vitest'

import { fieldsOf, saidAt, withSaid, type Step } from '../src/stations/recipeSteps'
import { holdersOf, isNet, withHolder, withNet, withOpen, type ShellStep } from '../src/stations/shellSteps'

const box: ShellStep = { do: 'shell', name: 'box', solid: { base: { rectangle: [200, 100] }, height: 'high' }, open: ['top'] }
const beside = (...names: string[]) => names.map((face) => ({ face, length: 9, turn: 90 }))
const face = (name: string, hangs_on: string | null, names: string[], is_open = false) => ({ name, hangs_on, is_open, beside: beside(...names) })
const faces = [
  face('bottom', null, ['side-1', 'side-2', 'side-3', 'side-4']),
  face('side-1', 'bottom', ['bottom', 'side-2', 'side-4', 'top']),
  face('side-2', 'side-1', ['bottom', 'side-3', 'side-1', 'top']),
  face('side-3', 'side-2', ['bottom', 'side-4', 'side-2', 'top']),
  face('side-4', 'bottom', ['bottom', 'side-1', 'side-3', 'top']),
  face('top', null, ['side-1', 'side-2', 'side-3', 'side-4'], true),
]
function found<T>(list: readonly T[], is: (one: T) => boolean): T {
  const one = list.find(is)
  if (!one) throw new Error('not there')
  return one
}
const at = (name: string) => found(faces, (f) => f.name === name)

describe('the faces of a shell', () => {
  it('hang on faces beside them that are of metal and do not hang on them', () => {
    expect(holdersOf(faces, at('side-1'))).toEqual(['bottom', 'side-4'])
    expect(holdersOf(faces, at('side-3'))).toEqual(['bottom', 'side-4', 'side-2'])
  })

  it('stay where they are when one is hung on another', () => {
    expect(withHolder(box, faces, 'side-3', 'side-4')).toMatchObject({
      anchor: 'bottom', bent: [['bottom', 'side-1'], ['side-1', 'side-2'], ['side-4', 'side-3'], ['bottom', 'side-4']],
    })
  })

  it('are bent anew when one is left open or closed', () => {
    const bent = withNet(box, [['bottom', 'side-1']])
    expect(withOpen({ ...bent, anchor: 'side-2' }, 'side-2', true)).toMatchObject({ open: ['top', 'side-2'], bent: null, anchor: null })
    expect(withOpen(bent, 'top', false)).toMatchObject({ open: [], bent: null })
  })

  it('make the net that is now, however its pairs are named', () => {
    const pairs = [['side-1', 'bottom'], ['side-1', 'side-2'], ['side-3', 'side-2'], ['bottom', 'side-4']]
    expect(isNet(faces, pairs)).toBe(true)
    expect(isNet(faces, pairs.slice(1))).toBe(false)
    expect(isNet(faces, [...pairs.slice(1), ['side-1', 'side-4']])).toBe(false)
  })
})

describe('the fields of a shell', () => {
  const titled = (step: Step) => fieldsOf(step).map((f) => f.path)
  const field = (step: Step, path: string) => found(fieldsOf(step), (f) => f.path === path)

  it('are those of the way its solid is said', () => {
    expect(titled(box)).toEqual([
      'name', 'solid.base', 'solid.base.rectangle.0', 'solid.base.rectangle.1', 'solid.height', 'solid',
      'solid.shift.0', 'solid.shift.1', 'metal', 'gap', 'relief', 'size',
    ])
    const six = withSaid(box, field(box, 'solid.base'), 'polygon')
    expect(titled(six)).toContain('solid.base.across')
    expect(titled(six)).not.toContain('solid.base.rectangle.0')
    expect(titled({ ...box, solid: { faces: {} } })).toEqual(['name', 'metal', 'gap', 'relief', 'size'])
  })

  it('show how it is closed, and change it', () => {
    expect(saidAt(box, field(box, 'solid'))).toBe('the base again')
    const pyramid = withSaid(box, field(box, 'solid'), 'a tip')
    expect(saidAt(pyramid, field(pyramid, 'solid'))).toBe('a tip')
    expect(pyramid).toMatchObject({ solid: { base: { rectangle: [200, 100] }, height: 'high', top: null, tip: [0, 0] } })
    const hopper = withSaid(pyramid, field(pyramid, 'solid'), 'another top')
    expect(saidAt(hopper, field(hopper, 'solid.top.rectangle.1'))).toBe('40')
    expect(withSaid(hopper, field(hopper, 'solid.top.rectangle.1'), 'high / 2')).toMatchObject({ solid: { top: { rectangle: [60, 'high / 2'] }, tip: null } })
    expect(saidAt(hopper, field(hopper, 'metal'))).toBe('inside')
  })
})
