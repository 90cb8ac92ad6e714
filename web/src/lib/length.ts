export type Units = 'mm' | 'in'

const MM_PER_INCH = 25.4

/** A length as it is shown: two decimals of a millimetre, three of an inch. */
export function length(mm: number, units: Units, decimals = units === 'mm' ? 2 : 3): string {
  return (units === 'mm' ? mm : mm / MM_PER_INCH).toFixed(decimals)
}

/** A long length in whole millimetres with a thin gap between thousands, or inches. */
export function longLength(mm: number, units: Units): string {
  if (units === 'in') return (mm / MM_PER_INCH).toFixed(1)
  return grouped(mm, 1)
}

export function grouped(value: number, decimals = 0): string {
  const [whole = '', rest] = value.toFixed(decimals).split('.')
  const spaced = whole.replace(/\B(?=(\d{3})+(?!\d))/g, '\u2009')
  return rest ? `${spaced}.${rest}` : spaced
}

function term(text: string): number | null {
  const mixed = /^(?:(\d+)\s+)?(\d+)\/(\d+)$/.exec(text)
  if (mixed) return Number(mixed[1] ?? 0) + Number(mixed[2]) / Number(mixed[3])
  return /^\d*\.?\d+$/.test(text) ? Number(text) : null
}

/**
 * Read a length such as `12.7`, `12.7 mm`, `1/2 in` or `1 7/16"` as millimetres; null when it
 * cannot be read.
 */
export function readLength(text: string, units: Units): number | null {
  const match = /^\s*(.*?)\s*(mm|in|")?\s*$/i.exec(text.replace(',', '.'))
  const value = match ? term(match[1] ?? '') : null
  if (!match || value === null || !Number.isFinite(value)) return null
  const unit = (match[2] ?? units).toLowerCase()
  return unit === 'mm' ? value : value * MM_PER_INCH
}

export function duration(seconds: number): string {
  const s = Math.round(seconds)
  const [h, m] = [Math.floor(s / 3600), Math.floor((s % 3600) / 60)]
  return h > 0 ? `${h} h ${String(m).padStart(2, '0')} min` : `${m} min ${String(s % 60).padStart(2, '0')} s`
}

export function day(iso: string | null | undefined): string {
  if (!iso) return ''
  const d = new Date(iso)
  const month = d.toLocaleString('en', { month: 'short' })
  return `${d.getDate()} ${month}`.toUpperCase()
}
