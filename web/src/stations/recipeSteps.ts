import type { Recipe } from '@/api/types'

export type Step = Recipe['steps'][number]
type Kind = Step['do']

/** A field of a step: where its value stands, what it is called, and what it may be. */
export interface StepField {
  path: string
  title: string
  /** A 'shape' is one of several ways to say the same thing: choosing one begins it. */
  kind: 'amount' | 'count' | 'text' | 'edges' | 'corners' | 'outline' | 'pairs' | 'choice' | 'shape'
  choices?: readonly string[]
  /** What is taken when it is left empty; a field without this cannot be. */
  empty?: string
}

const amount = (path: string, title: string, empty?: string): StepField => ({ path, title, kind: 'amount', ...(empty === undefined ? {} : { empty }) })
const choice = (path: string, title: string, ...choices: string[]): StepField => ({ path, title, kind: 'choice', choices })
const name: StepField = { path: 'name', title: 'Called', kind: 'text' }
const panel: StepField = { path: 'panel', title: 'In panel', kind: 'text' }
const on: StepField = { path: 'on', title: 'On edges', kind: 'edges' }
const ends = [amount('ends.0', 'Free at its beginning'), amount('ends.1', 'Free at its end')]
const place = [amount('at.0', 'x of its middle'), amount('at.1', 'y of its middle')]
const repeat: StepField[] = [
  { path: 'repeat.columns', title: 'How many across', kind: 'count' },
  { path: 'repeat.rows', title: 'How many up', kind: 'count' },
  amount('repeat.pitch.0', 'Apart across'),
  amount('repeat.pitch.1', 'Apart up'),
  amount('repeat.grow.0', 'Larger across, each by'),
  amount('repeat.grow.1', 'Larger up, each by'),
  { path: 'repeat.without', title: 'Without column/row', kind: 'pairs', empty: 'none' },
]
const rectangle = [amount('rectangle.0', 'Width'), amount('rectangle.1', 'Depth')]
/** Corners one after the other, x, y and where wanted the bulge of the side that begins there. */
const outline: StepField = { path: 'outline', title: 'Outline: corners x, y; x, y', kind: 'outline', empty: 'none' }
const relief = [choice('relief.kind', 'Relief', 'rectangular', 'round'), amount('relief.width', 'Relief width', 'thickness'), amount('relief.depth', 'Relief depth', 'thickness')]

/** A base or a top: by its sizes, its number of sides or its corners. */
const shape = (at: string, title: string): StepField[] => [
  { path: at, title, kind: 'shape', choices: ['rectangle', 'polygon', 'outline'] },
  amount(`${at}.rectangle.0`, 'Width'), amount(`${at}.rectangle.1`, 'Depth'),
  { path: `${at}.sides`, title: 'Sides', kind: 'count' }, amount(`${at}.across`, 'Across flats'),
  { path: `${at}.outline`, title: 'Outline: corners x, y; x, y', kind: 'outline' },
]
const line = [amount('line.0.0', 'Line from x'), amount('line.0.1', 'Line from y'), amount('line.1.0', 'Line to x'), amount('line.1.1', 'Line to y')]
const across = [
  panel, name, ...line,
  choice('stays', 'What stays, of it', 'left', 'right'), choice('direction', 'Direction', 'up', 'down'), amount('angle', 'Turn, °'),
]

/** The fields of a step, in the order a person would say them. */
const FIELDS: Record<Kind, readonly StepField[]> = {
  panel: [name, ...rectangle, outline],
  profile: [name, on, { path: 'section', title: 'Section: corners x, y; x, y', kind: 'outline' }, amount('width', 'Width'), choice('metal', 'Metal, of the line', 'left', 'right', 'both'), ...ends, ...relief],
  shell: [
    name, ...shape('solid.base', 'Base'), amount('solid.height', 'Height'),
    { path: 'solid', title: 'Closed by', kind: 'shape', choices: ['the base again', 'another top', 'a tip'] },
    ...shape('solid.top', 'Top'), amount('solid.tip.0', 'Tip x'), amount('solid.tip.1', 'Tip y'),
    amount('solid.shift.0', 'Moved by x'), amount('solid.shift.1', 'Moved by y'),
    choice('metal', 'Metal, of the faces', 'inside', 'outside'), amount('gap', 'Gap of the seams'),
    choice('relief', 'Relief', 'round', 'square', 'none'), amount('size', 'Relief size', 'thickness'),
  ],
  flange: [
    name, on, amount('length', 'Length', 'by outline'), outline, choice('measured', 'Measured', 'outside', 'inside', 'tangent'),
    amount('angle', 'Turn, °'), choice('direction', 'Direction', 'up', 'down'),
    choice('bend', 'Bend and edge', 'inside', 'outside', 'beside'), amount('offset', 'Further out'),
    amount('centred', 'Width, centred', 'the edge'), ...ends, amount('radius', 'Inside radius', 'as the part'), ...relief,
  ],
  fold: [...across, choice('measured', 'Measured', 'outside', 'inside', 'tangent'), amount('radius', 'Inside radius', 'as the part')],
  jog: [...across, amount('height', 'Height'), amount('radius', 'Inside radius', 'as the part')],
  hem: [name, on, amount('length', 'Length'), amount('gap', 'Gap'), choice('direction', 'Direction', 'up', 'down'), ...ends],
  hole: [panel, ...place, amount('diameter', 'Diameter', 'by thread'), { path: 'thread', title: 'Thread', kind: 'text', empty: 'none' }, amount('countersink', 'Countersunk to', 'not'), { path: 'press_in', title: 'Pressed in', kind: 'text', empty: 'nothing' }, amount('clear', 'Clear of edges', 'as it comes'), choice('side', 'Sunk or pressed from', 'near', 'far'), ...repeat],
  form: [panel, ...place, { path: 'note', title: 'What is pressed', kind: 'text' }, amount('diameter', 'Footprint'), choice('direction', 'Direction', 'up', 'down'), amount('pilot', 'Pilot hole', 'none'), ...repeat],
  slot: [panel, ...place, amount('length', 'Length over all'), amount('width', 'Width'), amount('turn', 'Turned by, °'), ...repeat],
  opening: [panel, ...place, ...rectangle, amount('corner', 'Corner radius'), { path: 'sides', title: 'Sides of a polygon', kind: 'count', empty: 'none' }, amount('across', 'Across flats'), outline, amount('turn', 'Turned by, °'), ...repeat],
  crease: [panel, amount('cross', 'Crosswise, off the corners', 'a line'), ...line, { path: 'note', title: 'What is pressed', kind: 'text' }, choice('direction', 'Direction', 'up', 'down')],
  mirror: [panel, ...line],
  corners: [
    { path: 'of', title: 'Of panel', kind: 'text' }, choice('how', 'How', 'open', 'mitred', 'overlapped'), amount('gap', 'Gap'),
    choice('relief', 'Relief', 'round', 'square', 'none'), amount('size', 'Relief size', 'thickness'),
  ],
  round: [panel, { path: 'corners', title: 'Corners', kind: 'corners', empty: 'all free ones' }, amount('radius', 'Size'), choice('kind', 'How', 'round', 'chamfer')],
}

/** A step that can be added, what it is called, and how it begins: on the first panel, or the first free edge. */
export const ADDABLE: readonly { title: string; begin: (first: string, edge: string) => Step }[] = [
  { title: 'Flange', begin: (_, edge) => ({ do: 'flange', name: 'flange', on: [edge], length: 30 }) },
  { title: 'Profile along edges', begin: (_, edge) => ({ do: 'profile', name: 'rim', on: [edge], section: [[0, 0], [0, 30], [-12, 30]] }) },
  { title: 'Hem', begin: (_, edge) => ({ do: 'hem', name: 'hem', on: [edge], length: 12 }) },
  { title: 'Fold across', begin: (first) => ({ do: 'fold', name: 'wing', panel: first, line: [[30, 0], [30, 10]] }) },
  { title: 'Jog', begin: (first) => ({ do: 'jog', name: 'ledge', panel: first, line: [[30, 0], [30, 10]], height: 10 }) },
  { title: 'Holes', begin: (first) => ({ do: 'hole', panel: first, at: [20, 20], diameter: 8 }) },
  { title: 'Slots', begin: (first) => ({ do: 'slot', panel: first, at: [30, 30], length: 30, width: 8 }) },
  { title: 'Openings', begin: (first) => ({ do: 'opening', panel: first, at: [40, 40], rectangle: [40, 30] }) },
  { title: 'Pressed forms', begin: (first) => ({ do: 'form', panel: first, at: [30, 30], note: 'dimple 12', diameter: 12 }) },
  { title: 'Creases', begin: (first) => ({ do: 'crease', panel: first, cross: 15 }) },
  { title: 'Mirrored cutouts', begin: (first) => ({ do: 'mirror', panel: first, line: [[50, 0], [50, 10]] }) },
  { title: 'Flange corners', begin: (first) => ({ do: 'corners', of: first, how: 'mitred', gap: 0.5 }) },
  { title: 'Rounding', begin: (first) => ({ do: 'round', panel: first, radius: 5 }) },
]

/** A step with a name that no other has. */
export function withFreeName(step: Step, steps: readonly Step[]): Step {
  if (!('name' in step)) return step
  const taken = new Set(steps.map((s) => ('name' in s ? s.name : '')))
  let free = step.name
  for (let n = 2; taken.has(free); n++) free = `${step.name}${n}`
  return { ...step, name: free }
}

/** The edges a step is on; null where it is on none: a profile that begins a part. */
const edgesOf = (step: Step): readonly string[] | null => ('on' in step && step.on?.length ? step.on : null)
const hasCross = (step: Extract<Step, { do: 'crease' }>) => step.cross !== null && step.cross !== undefined

/** The fields of one step: of a shape drawn as an outline there is no width, depth or length to change. */
export function fieldsOf(step: Step): readonly StepField[] {
  if (step.do === 'shell') return FIELDS.shell.filter((f) => isSaidOf(step, f))
  if (step.do === 'profile') return FIELDS.profile.filter((f) => (edgesOf(step) ? f.path !== 'width' : !/^(on$|ends|relief)/.test(f.path)))
  if (step.do === 'crease') return FIELDS.crease.filter((f) => !f.path.startsWith('line') || !hasCross(step))
  const isCentred = 'centred' in step && step.centred !== null && step.centred !== undefined
  const isOutline = Boolean('outline' in step && step.outline)
  const isPolygon = Boolean('sides' in step && step.sides)
  const hidden = isOutline ? /^(rectangle|length|corner$|sides|across|repeat.grow)/ : isPolygon ? /^(rectangle|corner$|outline)/ : /^across/
  return FIELDS[step.do].filter((f) => !hidden.test(f.path) && !(isCentred && f.path.startsWith('ends')))
}

/** Whether a shell has such a field: of its base and top those of the way they are said, of a solid of given faces none. */
function isSaidOf(step: Extract<Step, { do: 'shell' }>, field: StepField): boolean {
  const [solid, at = '', key] = field.path.split('.')
  if (solid !== 'solid') return true
  if (step.solid.faces) return false
  if (at === 'base' || at === 'top') return Boolean(step.solid[at]) && (!key || (step.solid[at]?.[key as 'sides'] ?? null) !== null || (key === 'across' && Boolean(step.solid[at]?.sides)))
  return at !== 'tip' || Boolean(step.solid.tip)
}

/** How a shape, or the end of a solid, is begun that is to be said in another way. */
const BEGUN: Record<string, Value> = {
  rectangle: { rectangle: [100, 80] }, polygon: { sides: 6, across: 100 }, outline: { outline: [[0, 0], [100, 0], [60, 80], [0, 80]] },
  'the base again': { top: null, tip: null }, 'another top': { top: { rectangle: [60, 40] }, tip: null }, 'a tip': { top: null, tip: [0, 0] },
}

function shapeAt(path: string, at: unknown): string {
  const said = (at ?? {}) as { sides?: unknown; outline?: unknown; top?: unknown; tip?: unknown }
  if (path === 'solid') return said.tip ? 'a tip' : said.top ? 'another top' : 'the base again'
  return said.sides ? 'polygon' : said.outline ? 'outline' : 'rectangle'
}

/** What goes without saying. */
const UNSAID: Record<string, string | number> = {
  measured: 'outside', angle: 90, direction: 'up', bend: 'inside', offset: 0, 'ends.0': 0, 'ends.1': 0, gap: 0, turn: 0, corner: 0,
  'repeat.columns': 1, 'repeat.rows': 1, 'repeat.pitch.0': 0, 'repeat.pitch.1': 0, 'repeat.grow.0': 0, 'repeat.grow.1': 0, 'relief.kind': 'rectangular', relief: 'round', kind: 'round', note: 'crease', side: 'near', stays: 'left', 'solid.shift.0': 0, 'solid.shift.1': 0,
}

type Value = string | number | null | Value[] | { [key: string]: Value }

/** What a step says at a place, as it is typed; empty where it says nothing. */
export function saidAt(step: Step, field: StepField): string {
  let at: unknown = step
  for (const key of field.path.split('.')) at = (at as Record<string, unknown> | null | undefined)?.[key]
  if (field.kind === 'shape') return shapeAt(field.path, at)
  if (field.kind === 'pairs') return ((at ?? []) as number[][]).map((pair) => pair.join('/')).join(', ')
  if (field.kind === 'outline' && Array.isArray(at)) return at.map((row) => (row as unknown[]).join(', ')).join('; ')
  if (Array.isArray(at)) return at.join(', ')
  if (field.path === 'metal' && !at) return step.do === 'shell' ? 'inside' : 'right'
  return String((at as string | number | null | undefined) ?? UNSAID[field.path] ?? '')
}

const numberOr = (text: string): string | number => (/^-?\d*\.?\d+$/.test(text) ? Number(text) : text)

/** The value that is typed into a field. A name or formula that makes no sense is the server's to tell. */
function valueOf(field: StepField, typed: string): Value {
  const text = typed.trim()
  const words = text.split(/[\s,]+/).filter((w) => w)
  if (field.kind === 'edges') return words
  if (field.kind === 'corners') return words.map(Number)
  if (field.kind === 'pairs') return words.map((pair) => pair.split('/').map(Number))
  if (!text) return null
  if (field.kind === 'outline') return text.split(';').filter((row) => row.trim()).map((row) => row.split(',').map((v) => numberOr(v.trim())))
  if (field.kind === 'count') return Number(text)
  return field.kind === 'amount' ? numberOr(text) : text
}

/** The same tree with a value at a place; what is missing on the way there is made. */
function withValue(tree: Value | undefined, [key = '', ...rest]: string[], value: Value): Value {
  if (!key) return value
  if (/^\d$/.test(key)) {
    const list = Array.isArray(tree) ? [...tree] : [0, 0]
    list[Number(key)] = withValue(list[Number(key)], rest, value)
    return list
  }
  const object = (tree ?? {}) as { [key: string]: Value }
  return { ...object, [key]: withValue(object[key], rest, value) }
}

/** A step with one field as it was typed. */
export function withSaid(step: Step, field: StepField, typed: string): Step {
  if (field.kind === 'shape') {
    const path = field.path.split('.')
    const now = path.reduce((at, key) => (at as Record<string, unknown>)[key], step as unknown)
    // A solid keeps its base; a shape is begun anew.
    return withValue(step as never, path, { ...(field.path === 'solid' ? (now as object) : {}), ...(BEGUN[typed] as object) }) as never
  }
  const value = valueOf(field, typed)
  const changed = withValue(step as never, field.path.split('.'), value) as never
  // A hole is as wide as it is said, or as its thread is drilled.
  if (field.path === 'thread' && value) return { ...(changed as object), diameter: null } as Step
  if (field.path === 'diameter' && value) return { ...(changed as object), thread: null } as Step
  // What is centred leaves free what is beside it.
  if (field.path === 'centred') return { ...(changed as object), ends: [0, 0] } as Step
  // Creases run crosswise, or along the line that is said.
  if (field.path === 'cross') return { ...(changed as object), line: value === null ? [[10, 10], [60, 60]] : null } as Step
  // A shape is said by its outline, its number of sides, or its sizes.
  if (field.path === 'sides') return { ...(changed as object), rectangle: value ? null : [60, 40], outline: null, across: value ? 20 : null } as Step
  if (field.path === 'outline') return { ...(changed as object), ...('on' in step ? { length: value ? null : 30 } : { rectangle: value ? null : [60, 40], ...('at' in step ? { sides: null, across: null } : {}) }) } as Step
  return changed
}

/** A hole for what is pressed into it, or a form, as Stores has it. */
export function withPressing(step: Step, known: { name: string; hole: number | null; clear: number }): Step {
  if (step.do === 'hole') return { ...step, press_in: known.name, diameter: known.hole, clear: known.clear, thread: null }
  return step.do === 'form' ? { ...step, note: known.name, diameter: 2 * known.clear, pilot: known.hole } : step
}

/** The panel or edges a step is on, as the view names them. */
export function namesOf(step: Step): string[] {
  const edges = edgesOf(step)
  if (edges) return [...edges]
  if ('panel' in step) return [step.panel]
  return 'of' in step ? [step.of] : []
}

/** A step with what was clicked in the view: a panel, or an edge (PANEL.N), that is added or taken away. */
export function withName(step: Step, clicked: string): Step {
  const isEdge = clicked.includes('.')
  const edges = edgesOf(step)
  if (edges && isEdge) {
    const others = edges.filter((e) => e !== clicked)
    if (others.length === edges.length) return { ...step, on: [...others, clicked] } as Step
    return others.length ? ({ ...step, on: others } as Step) : step
  }
  const panel = clicked.split('.')[0] ?? ''
  if ('panel' in step) return { ...step, panel }
  return 'of' in step ? { ...step, of: panel } : step
}
