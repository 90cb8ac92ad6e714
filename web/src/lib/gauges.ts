import type { RackLine } from '@/api/types'

export interface GaugeGroup {
  name: string
  lines: RackLine[]
  pieces: number
  /** Millimetres shown in one pixel of the rack: one scale within a gauge. */
  scale: number
}

const WIDE = 150
const HIGH = 92

/** Group the rack's lines by gauge, in the order the gauges first come. */
export function byGauge(lines: readonly RackLine[]): GaugeGroup[] {
  const groups = new Map<string, RackLine[]>()
  for (const line of lines) {
    const name = gaugeName(line)
    groups.set(name, [...(groups.get(name) ?? []), line])
  }
  return [...groups].map(([name, members]) => ({
    name,
    lines: members,
    pieces: members.reduce((sum, line) => sum + line.quantity, 0),
    scale: Math.max(...members.map((l) => Math.max((l.width ?? 0) / WIDE, (l.height ?? 0) / HIGH)), 0.05),
  }))
}

export function gaugeName(line: RackLine): string {
  if (line.state === 'reading') return 'Being read'
  if (line.state === 'refused') return 'Refused'
  if (line.state === 'asking') return 'Left open'
  return gaugeText(line.thickness, line.material)
}

type Maybe<T> = T | null | undefined

/** A gauge as the trade says it: 1.5 galvanised, 2.0 steel, 1.25 steel; no two by one name. */
export function gaugeText(thickness: Maybe<number>, material: Maybe<string>): string {
  const number = String(Math.round((thickness ?? 0) * 1000) / 1000)
  return `${number.includes('.') ? number : `${number}.0`} ${material ?? 'no material'}`
}
