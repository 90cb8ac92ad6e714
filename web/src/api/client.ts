import createClient, { type Middleware } from 'openapi-fetch'

import { router } from '@/router'

import { leaving } from './leaving'
import { Problem, SILENT, type ProblemBody } from './problem'
import type { paths } from './schema'
import type { Archive, RackLine } from './types'

function cookie(name: string): string {
  const found = document.cookie.split('; ').find((c) => c.startsWith(`${name}=`))
  return found ? decodeURIComponent(found.slice(name.length + 1)) : ''
}

const carryToken: Middleware = {
  async onRequest({ request }) {
    // The token comes with the first answer; a quick hand may be faster than that.
    if (request.method !== 'GET' && !cookie('csrftoken')) await fetch('/api/session').catch(() => undefined)
    if (request.method !== 'GET') request.headers.set('X-CSRFToken', cookie('csrftoken'))
    return request
  },
  onError() {
    return SILENT
  },
}

export const client = createClient<paths>({ baseUrl: '' })
client.use(carryToken, leaving)

/**
 * Give the data of an answer, or throw its problem; who is not signed in is sent to sign in. The
 * type is named by the caller: the client library widens the schema's pairs to lists.
 */
export async function take<T = void>(
  call: Promise<{ data?: unknown; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await call
  if (response.ok) return data as T
  if (response.status === 401 && router.currentRoute.value.name !== 'sign-in') {
    await router.push({ name: 'sign-in', query: { then: router.currentRoute.value.fullPath } })
  }
  throw new Problem(
    error && typeof error === 'object'
      ? (error as ProblemBody)
      : { status: response.status, detail: `The server answered ${String(response.status)}` },
  )
}

function withFile(file: File) {
  const body = new FormData()
  body.append('file', file)
  return { body: body as never, bodySerializer: (b: unknown) => b as FormData }
}

/** Put a file onto an order's rack. */
export async function putFile(order: number, file: File): Promise<RackLine> {
  return take<RackLine>(client.POST('/api/orders/{order}/files', { params: { path: { order } }, ...withFile(file) }))
}

/** Put every part of a zip onto an order's rack. */
export async function putArchive(order: number, file: File): Promise<Archive> {
  return take<Archive>(client.POST('/api/orders/{order}/archives', { params: { path: { order } }, ...withFile(file) }))
}

/** Drop a newer file onto a part. */
export async function putRevision(part: number, file: File): Promise<void> {
  await take(client.POST('/api/parts/{part}/revision', { params: { path: { part } }, ...withFile(file) }))
}
