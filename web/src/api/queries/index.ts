import { keepPreviousData, queryOptions } from '@tanstack/vue-query'

import { client, take } from '../client'
import type { Assembly, Blank, Checks, Cut, FoundList, GaugeStates, Mesh, Nest, NetsAnswer, OrderCard, OrderList, Packet, People, Rack, RecipeAnswer, Sheets, Shell, StarterList, Stores, Trail, Who } from '../types'

const QUICK = 700
const CALM = 4000
const SLOW = 15_000

type Runs = { run?: { state: string } | null }

/** How soon to look again: soon while something runs, calmly otherwise. */
function pace(data: Runs | undefined): number {
  const state = data?.run?.state
  return state === 'queued' || state === 'running' ? QUICK : CALM
}

export const whoQuery = () =>
  queryOptions({ queryKey: ['who'], queryFn: () => take<Who>(client.GET('/api/session')) })

export const ordersQuery = () =>
  queryOptions({ queryKey: ['orders'], queryFn: () => take<OrderList>(client.GET('/api/orders')) })

export const orderQuery = (order: number) =>
  queryOptions({
    queryKey: ['order', order],
    queryFn: () => take<OrderCard>(client.GET('/api/orders/{order}', { params: { path: { order } } })),
    refetchInterval: CALM,
  })

export const rackQuery = (order: number) =>
  queryOptions({
    queryKey: ['rack', order],
    queryFn: () => take<Rack>(client.GET('/api/orders/{order}/rack', { params: { path: { order } } })),
    refetchInterval: (query) =>
      query.state.data?.lines.some((line) => line.state === 'reading') ? QUICK : CALM,
  })

export const gaugesQuery = (order: number) =>
  queryOptions({
    queryKey: ['gauges', order],
    queryFn: () => take<GaugeStates>(client.GET('/api/orders/{order}/gauges', { params: { path: { order } } })),
    refetchInterval: CALM,
  })

export const blankQuery = (part: number) =>
  queryOptions({
    queryKey: ['blank', part],
    queryFn: () => take<Blank>(client.GET('/api/parts/{part}/blank', { params: { path: { part } } })),
    enabled: part > 0,
    refetchInterval: (query) => (query.state.data?.revision_fault === 'reading' ? QUICK : false),
  })

export const sheetsQuery = (part: number, asked: { paper: string; units: string }) =>
  queryOptions({
    queryKey: ['sheets', part, asked.paper, asked.units],
    queryFn: () => take<Sheets>(client.GET('/api/parts/{part}/sheets', { params: { path: { part }, query: asked as object } })),
    enabled: part > 0,
    // While another paper or unit is fetched the sheet stays to be seen; that of another part does not.
    placeholderData: (before: Sheets | undefined, was) => (was?.queryKey[1] === part ? before : undefined),
  })

/** How far the drawing of the assembly is that a line came in. */
export const assemblyQuery = (line: number, asked: { paper: string; units: string }) =>
  queryOptions({
    queryKey: ['assembly', line, asked.paper, asked.units],
    queryFn: () => take<Assembly>(client.GET('/api/lines/{line}/assembly', { params: { path: { line }, query: asked as object } })),
    refetchInterval: (query) => pace(query.state.data),
    // Another part of the same assembly asks for the same drawing.
    placeholderData: keepPreviousData,
  })

/** A sheet of an assembly's drawing as SVG: a drawing once made stays as it is. */
export const assemblySheetQuery = (drawing: number, sheet: number) =>
  queryOptions({
    queryKey: ['assembly sheet', drawing, sheet],
    queryFn: () => take<string>(client.GET('/api/assemblies/{drawing}/{sheet}/{kind}', { params: { path: { drawing, sheet, kind: 'svg' } }, parseAs: 'text' })),
    staleTime: Infinity,
  })

export const recipeQuery = (part: number) =>
  queryOptions({
    queryKey: ['recipe', part],
    queryFn: () => take<RecipeAnswer>(client.GET('/api/parts/{part}/recipe', { params: { path: { part } } })),
    enabled: part > 0,
  })

/** The faces and nets of a recipe's shell, as they are after the change that a file was kept for. */
export const netsQuery = (part: number, seen: string) =>
  queryOptions({
    queryKey: ['recipe', part, 'nets', seen],
    queryFn: () => take<NetsAnswer>(client.GET('/api/parts/{part}/recipe/nets', { params: { path: { part } } })),
    enabled: part > 0,
    placeholderData: keepPreviousData,
  })

export const startersQuery = () =>
  queryOptions({
    queryKey: ['starters'],
    queryFn: () => take<StarterList>(client.GET('/api/recipes')),
    staleTime: Infinity,
  })

export const meshQuery = (part: number) =>
  queryOptions({
    queryKey: ['mesh', part],
    queryFn: () => take<Mesh>(client.GET('/api/parts/{part}/mesh', { params: { path: { part } } })),
    enabled: part > 0,
  })

export const shellQuery = (part: number) =>
  queryOptions({
    queryKey: ['shell', part],
    queryFn: () => take<Shell>(client.GET('/api/parts/{part}/shell', { params: { path: { part } } })),
    enabled: part > 0,
  })

export const nestQuery = (order: number) =>
  queryOptions({
    queryKey: ['nest', order],
    queryFn: () => take<Nest>(client.GET('/api/orders/{order}/nest', { params: { path: { order } } })),
    refetchInterval: (query) => pace(query.state.data),
  })

export const cutQuery = (order: number) =>
  queryOptions({
    queryKey: ['cut', order],
    queryFn: () => take<Cut>(client.GET('/api/orders/{order}/cut', { params: { path: { order } } })),
    refetchInterval: (query) => pace(query.state.data),
  })

export const packetQuery = (order: number) =>
  queryOptions({
    queryKey: ['packet', order],
    queryFn: () => take<Packet>(client.GET('/api/orders/{order}/packet', { params: { path: { order } } })),
    refetchInterval: (query) => pace(query.state.data),
  })

/** Every check measures and counts anew, so they are not asked for as often as how far a run is. */
export const checksQuery = (order: number) =>
  queryOptions({
    queryKey: ['checks', order],
    queryFn: () => take<Checks>(client.GET('/api/orders/{order}/checks', { params: { path: { order } } })),
    refetchInterval: SLOW,
  })

export const peopleQuery = () =>
  queryOptions({ queryKey: ['people'], queryFn: () => take<People>(client.GET('/api/people')) })

/** What was done on an order, or altogether where it is 0. */
export const trailQuery = (order: number) =>
  queryOptions({
    queryKey: ['trail', order],
    queryFn: () => take<Trail>(client.GET('/api/trail', { params: { query: order ? { order } : {} } })),
    refetchInterval: SLOW,
  })

export const storesQuery = () =>
  queryOptions({
    queryKey: ['stores'],
    queryFn: () => take<Stores>(client.GET('/api/stores')),
    refetchInterval: SLOW,
  })

export const findQuery = (q: string) =>
  queryOptions({
    queryKey: ['find', q],
    queryFn: () => take<FoundList>(client.GET('/api/find', { params: { query: { q } } })),
    enabled: q.trim().length > 0,
  })
