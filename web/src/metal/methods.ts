import type { Gauge } from '@/api/types'

export type Method = Gauge['method']
export type Point = Gauge['points'][number]

const TITLES: Record<Method, string> = {
  k: 'one K',
  'k-by-ratio': 'K by R/T',
  'din-6935': 'DIN 6935',
  allowance: 'allowances',
  deduction: 'deductions',
}

export const METHODS = Object.keys(TITLES) as Method[]

export function methodTitle(method: Method): string {
  return TITLES[method]
}

/** The columns of a chart's rows: which values a row of each method has. */
export function columnsOf(method: Method): readonly ('angle' | 'radius' | 'ratio' | 'value')[] {
  if (method === 'k') return ['value']
  if (method === 'k-by-ratio') return ['ratio', 'value']
  return method === 'din-6935' ? [] : ['angle', 'radius', 'value']
}
