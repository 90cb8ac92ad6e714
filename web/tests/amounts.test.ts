import { describe, expect, it } from 'vitest'

import { area, AREA_UNIT, mass, MASS_UNIT } from '@/lib/amounts'

describe('areas and masses', () => {
  it('are metric beside millimetres', () => {
    expect([area(99_400, 'mm'), AREA_UNIT.mm, mass(1.17, 'mm'), MASS_UNIT.mm]).toEqual([0.0994, 'm²', 1.17, 'kg'])
  })

  it('are in feet and pounds beside inches', () => {
    // A sheet of 48 by 96 inches has 32 square feet.
    expect(area(48 * 25.4 * 96 * 25.4, 'in')).toBeCloseTo(32, 9)
    expect(mass(0.45359237 * 7, 'in')).toBeCloseTo(7, 12)
    expect([AREA_UNIT.in, MASS_UNIT.in]).toEqual(['ft²', 'lb'])
  })
})
