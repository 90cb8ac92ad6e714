import { describe, expect, it } from 'vitest'

import CSS from '../src/style/base.css?raw'

/** The colours of a shift by name; the night keeps the day's where it has none of its own. */
function colours(shift: 'day' | 'night'): Record<string, string> {
  const read = (selector: string) => {
    const block = CSS.slice(CSS.indexOf(`${selector} {`)).split('}')[0] ?? ''
    return Object.fromEntries([...block.matchAll(/--([a-z-]+): (#[0-9a-f]{6});/g)].map(([, name, colour]) => [name, colour]))
  }
  return { ...read(':root'), ...(shift === 'night' ? read(":root[data-shift='night']") : {}) }
}

/** Relative luminance and contrast as WCAG 2.2 defines them. */
function luminance(colour: string): number {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((at) => {
    const c = parseInt(colour.slice(at, at + 2), 16) / 255
    return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4
  })
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}

function contrast(a: string, b: string): number {
  const [light = 0, dark = 0] = [luminance(a), luminance(b)].sort((x, y) => y - x)
  return (light + 0.05) / (dark + 0.05)
}

const TEXT: [string[], string[]][] = [
  [['ink', 'quiet', 'dye', 'up', 'down', 'mark', 'ochre', 'oxide'], ['paper']],
  [['ink', 'quiet', 'dye'], ['zinc']],
  [['ink', 'quiet', 'dye', 'up', 'down'], ['dye-wash']],
  [['ink', 'dye', 'up', 'down'], ['blank']],
  [['ink'], ['room', 'metal', 'metal-near', 'metal-chosen', 'metal-broken', 'metal-faint']],
  [['oxide'], ['oxide-wash']],
  [['on-tone'], ['dye', 'dye-deep', 'ochre', 'oxide']],
  [['on-tone-quiet', 'on-tone-stale'], ['dye']],
  [['head-words', 'head-quiet'], ['head', 'head-field']],
]

describe.each(['day', 'night'] as const)('in the %s shift', (shift) => {
  const found = colours(shift)

  it.each(TEXT.flatMap(([words, grounds]) => words.flatMap((w) => grounds.map((g): [string, string] => [w, g]))))(
    '%s can be read on %s',
    (word, ground) => {
      expect(contrast(found[word] ?? '', found[ground] ?? '')).toBeGreaterThanOrEqual(4.5)
    },
  )
})

it('the night is dark, and its sides of a part tell which lies up', () => {
  const [day, night] = [colours('day'), colours('night')]
  const light = (all: Record<string, string>, name: string) => luminance(all[name] ?? '')
  expect([light(day, 'paper') > 0.8, light(night, 'paper') < 0.03]).toEqual([true, true])
  for (const all of [day, night]) expect(light(all, 'face-up')).toBeGreaterThan(1.5 * light(all, 'face-down'))
})
