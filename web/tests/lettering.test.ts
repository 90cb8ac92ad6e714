import { describe, expect, it } from 'vitest'

import { earlier, newLabel, sampleNote } from '../src/metal/lettering'

describe('a bend note', () => {
  it('reads as its facts with the words around them, in their order', () => {
    expect(sampleNote([{ says: 'angle' }, { says: 'radius', before: ' R' }])).toEqual(['90° R2'])
    expect(sampleNote([{ says: 'radius', before: ' R' }, { says: 'angle', before: ' x ' }])).toEqual(['R2 x 90°'])
  })

  it('breaks where a fact begins a line, but not before its first', () => {
    expect(sampleNote([{ says: 'direction', new_line: true }, { says: 'k', before: 'K ', new_line: true }])).toEqual(['up', 'K .44'])
    expect(sampleNote([])).toEqual([])
  })
})

describe('a list', () => {
  it('has one thing earlier, the first staying where it is', () => {
    expect(earlier(['a', 'b', 'c'], 2)).toEqual(['a', 'c', 'b'])
    expect(earlier(['a', 'b', 'c'], 0)).toEqual(['a', 'b', 'c'])
  })
})

describe('a field of the shop', () => {
  it('has a name at first that no other has', () => {
    expect(newLabel([])).toBe('Field 1')
    expect(newLabel(['Field 1', 'Finish', 'Field 2'])).toBe('Field 3')
  })
})
