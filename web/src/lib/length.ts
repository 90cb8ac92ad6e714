export type Units = 'mm' | 'in'

export const MM_PER_INCH = 25.4

/** How inches are shown: decimals, or fractions down to a 16th, 32nd or 64th. */
export type InchStyle = 'decimal' | 16 | 32 | 64

let inchStyle: InchStyle = 'decimal'

/** Choose how inches are shown everywhere. */
export function showInchesAs(style: InchStyle): void {
  inchStyle = style
}

/** A length as it is shown: two decimals of a millimetre, three of an inch or a fraction. */
export function length(mm: number, units: Units, decimals = units === 'mm' ? 2 : 3): string {
  if (units === 'in' && inchStyle !== 'decimal') return fraction(mm / MM_PER_INCH, inchStyle)
  const shown = (units === 'mm' ? mm : mm / MM_PER_INCH).toFixed(decimals)
  return Number(shown) === 0 ? shown.replace('-', '') : shown
}

/** A length with as few digits as say it: a thousandth of a millimetre or a ten-thousandth of an inch at most. */
export function shortLength(mm: number, units: Units, decimals = units === 'mm' ? 3 : 4): string {
  const shown = length(mm, units, decimals)
  return shown.includes('/') ? shown : String(Number(shown))
}

/** The size of a sheet as it is called: 2500 × 1250, 96 × 48. */
export function sheetSize(width: number, height: number, units: Units): string {
  const decimals = units === 'mm' ? 1 : 2
  return `${shortLength(width, units, decimals)} × ${shortLength(height, units, decimals)}`
}

/** Inches as a whole number and a fraction in lowest terms, the nearest of its denominator. */
export function fraction(inches: number, denominator: number): string {
  const parts = Math.round(Math.abs(inches) * denominator)
  const sign = inches < 0 && parts > 0 ? '-' : ''
  const whole = Math.floor(parts / denominator)
  let [top, under] = [parts % denominator, denominator]
  while (top > 0 && top % 2 === 0) [top, under] = [top / 2, under / 2]
  if (top === 0) return `${sign}${whole}`
  return whole ? `${sign}${whole} ${top}/${under}` : `${sign}${top}/${under}`
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

const TOKEN = /\s*(?:(\d+)\s+(\d+)\/(\d+)|(\d+)\/(\d+)(?![\d.])|(\d*\.?\d+)|(mm|cm|in|")|([-+*/()]))/iy

type Token = { number: number } | { unit: number } | { sign: string }

function tokens(text: string): Token[] | null {
  const out: Token[] = []
  TOKEN.lastIndex = 0
  const trimmed = text.trimEnd()
  while (TOKEN.lastIndex < trimmed.length) {
    const hit = TOKEN.exec(trimmed)
    if (!hit) return null
    const [, whole, top, under, up, down, plain, unit, sign] = hit
    if (top) out.push({ number: Number(whole) + Number(top) / Number(under) })
    else if (up) out.push({ number: Number(up) / Number(down) })
    else if (plain) out.push({ number: Number(plain) })
    else if (unit) out.push({ unit: { mm: 1, cm: 10 }[unit.toLowerCase()] ?? MM_PER_INCH })
    else if (sign) out.push({ sign })
  }
  return out
}

/** A value while it is worked out: `power` 0 is a plain number, 1 a length in mm. */
interface Value {
  size: number
  power: number
}

/**
 * Read a length such as `12.7`, `12.7 mm`, `1 7/16"`, `60 - 2*1.5` or `1 in + 3 mm` as
 * millimetres; null when it cannot be read. A number without a unit is in the shown units where
 * it stands for a length, and a plain factor beside a product. Nothing below 0 is a length.
 */
export function readLength(text: string, units: Units): number | null {
  const found = tokens(text.replace(/,/g, '.'))
  if (!found?.length) return null
  const here = units === 'mm' ? 1 : MM_PER_INCH
  let at = 0
  const sign = (): string => {
    const token = found[at]
    return token && 'sign' in token ? token.sign : ''
  }
  const asLength = (v: Value): Value => (v.power === 0 ? { size: v.size * here, power: 1 } : v)

  function sum(): Value | null {
    let total = product()
    while (total && (sign() === '+' || sign() === '-')) {
      const minus = sign() === '-'
      at++
      const next = product()
      if (!next) return null
      // What is added to a length is one itself.
      const [a, b]: [Value, Value] = total.power || next.power ? [asLength(total), asLength(next)] : [total, next]
      total = { size: a.size + (minus ? -b.size : b.size), power: a.power }
    }
    return total
  }

  function product(): Value | null {
    let total = single()
    while (total && (sign() === '*' || sign() === '/')) {
      const over = sign() === '/'
      at++
      const next = single()
      if (!next) return null
      total = over
        ? { size: total.size / next.size, power: total.power - next.power }
        : { size: total.size * next.size, power: total.power + next.power }
    }
    return total
  }

  function single(): Value | null {
    if (sign() === '-') {
      at++
      const value = single()
      return value && { size: -value.size, power: value.power }
    }
    const value = sign() === '(' ? bracket() : number()
    const unit = found?.[at]
    if (value?.power !== 0 || !unit || !('unit' in unit)) return value
    at++
    return { size: value.size * unit.unit, power: 1 }
  }

  function bracket(): Value | null {
    at++
    const value = sum()
    return sign() === ')' && at++ ? value : null
  }

  function number(): Value | null {
    const token = found?.[at]
    if (!token || !('number' in token)) return null
    at++
    return { size: token.number, power: 0 }
  }

  const value = sum()
  if (!value || at < found.length || (value.power !== 0 && value.power !== 1)) return null
  const mm = asLength(value).size
  return Number.isFinite(mm) && mm >= 0 ? mm : null
}

/** Several lengths as one text; inches with two blanks between, since `1 7/16` has one within. */
export function lengthList(all: readonly number[], units: Units): string {
  return all.map((mm) => shortLength(mm, units)).join(units === 'mm' ? ' ' : '  ')
}

/** Read such a text; a length that stands there as it was shown stays what it was, to the last digit. */
export function readLengthList(text: string, units: Units, before: readonly number[]): number[] | null {
  const words: string[] = text.match(/\d+ \d+\/\d+|\S+/g) ?? []
  const left = [...before]
  const read = words.map((word) => {
    // Each only once: rounded, two lengths may be shown alike.
    const at = left.findIndex((mm) => shortLength(mm, units) === word)
    return at < 0 ? readLength(word, units) : (left.splice(at, 1)[0] ?? null)
  })
  return read.every((mm) => mm !== null) ? read : null
}

export function duration(seconds: number): string {
  const s = Math.round(seconds)
  const [h, m] = [Math.floor(s / 3600), Math.floor((s % 3600) / 60)]
  return h > 0 ? `${h} h ${String(m).padStart(2, '0')} min` : `${m} min ${String(s % 60).padStart(2, '0')} s`
}

export function day(iso: string | null | undefined): string {
  if (!iso) return ''
  // A bare date would be read as midnight in Greenwich, which is the day before west of it.
  const d = new Date(iso.includes('T') ? iso : `${iso}T00:00`)
  const month = d.toLocaleString('en', { month: 'short' })
  return `${d.getDate()} ${month}`.toUpperCase()
}

/** A day and the time on it, as the clock here shows it. */
export function moment(iso: string): string {
  const d = new Date(iso)
  const two = (n: number) => String(n).padStart(2, '0')
  return `${day(iso)} ${two(d.getHours())}:${two(d.getMinutes())}`
}
