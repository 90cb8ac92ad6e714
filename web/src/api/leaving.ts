import type { Middleware } from 'openapi-fetch'

/** Bytes of changes on their way that browsers see through though the page is left: 64 KiB together, less some of headers. */
const SEEN_THROUGH = 60_000

/** Bytes of changes on their way that arrive whatever becomes of the page; and those that do not. */
const [sure, unsure] = [new Map<string, number>(), new Set<string>()]

function askToStay(event: BeforeUnloadEvent): void {
  event.preventDefault()
}

async function textOf(request: Request): Promise<string | null> {
  const kind = request.headers.get('Content-Type')
  return kind && kind !== 'application/json' ? null : request.clone().text()
}

function hasArrived({ id }: { id: string }): undefined {
  sure.delete(id)
  unsure.delete(id)
  if (!unsure.size) window.removeEventListener('beforeunload', askToStay)
  return undefined
}

/**
 * Sends a change so that a reload does not stop it. Where that cannot be, of a file or of more than
 * browsers see through, they ask whether to leave the page before it has arrived.
 */
export const leaving: Middleware = {
  async onRequest({ request, id }) {
    if (request.method === 'GET') return request
    const body = await textOf(request)
    const bytes = body === null ? Infinity : new Blob([body]).size
    const together = [...sure.values()].reduce((sum, each) => sum + each, bytes)
    if (together <= SEEN_THROUGH) {
      sure.set(id, bytes)
      return new Request(request, { body: body || null, keepalive: true })
    }
    unsure.add(id)
    window.addEventListener('beforeunload', askToStay)
    return request
  },
  onResponse: hasArrived,
  onError: hasArrived,
}
