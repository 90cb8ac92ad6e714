import type { Units } from './length'

const MM2 = { mm: 1e6, in: 304.8 ** 2 }
const KILOGRAMS = { mm: 1, in: 0.45359237 }

/** What areas and masses are shown in, beside millimetres and beside inches. */
export const AREA_UNIT = { mm: 'm²', in: 'ft²' } as const
export const MASS_UNIT = { mm: 'kg', in: 'lb' } as const

/** An area of square millimetres in square metres or feet. */
export const area = (mm2: number, units: Units): number => mm2 / MM2[units]

/** A mass of kilograms in kilograms or pounds. */
export const mass = (kilograms: number, units: Units): number => kilograms / KILOGRAMS[units]
