import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

vi.mock('@/router', () => ({ router: {} }))

const sent: Request[] = []

// Paths are the page's own there; here they need an address to stand on.
class Asked extends Request {
  constructor(to: RequestInfo | URL, init?: RequestInit) {
    super(typeof to === 'string' ? new URL(to, 'http://shop.test') : to, init)
  }
}

beforeEach(() => {
  sent.length = 0
  vi.stubGlobal('document', { cookie: 'csrftoken=t' })
  vi.stubGlobal('Request', Asked)
  vi.stubGlobal('fetch', (request: Request) => (sent.push(request), Promise.resolve(new Response('{}'))))
  vi.resetModules()
})
afterEach(() => vi.unstubAllGlobals())

describe('what is sent to the server', () => {
  const sheet = { params: { path: { sheet: 1 } } }

  it('arrives though the page is left at once, with the token, where it is a short change', async () => {
    const { client } = await import('../src/api/client')
    await client.PATCH('/api/stores/sheets/{sheet}', { ...sheet, body: { count: 3 } })
    await client.DELETE('/api/stores/sheets/{sheet}', sheet)
    expect(sent.map((r) => [r.method, r.keepalive, r.headers.get('X-CSRFToken')])).toEqual([['PATCH', true, 't'], ['DELETE', true, 't']])
    expect(await sent[0]?.json()).toEqual({ count: 3 })
  })

  it('is sent plainly where it is long or a file, which browsers would refuse, and where it only asks', async () => {
    const { client, putFile } = await import('../src/api/client')
    await client.PUT('/api/stores/tables/{name}', { params: { path: { name: 'stock' } }, body: { name: 's.csv', text: 'x'.repeat(70_000) } })
    await putFile(1, new File(['solid'], 'a.step'))
    await client.GET('/api/stores')
    expect(sent.map((r) => r.keepalive)).toEqual([false, false, false])
    expect(((await sent[0]?.json()) as { text: string }).text.length).toBe(70_000)
    expect(((await sent[1]?.formData())?.get('file') as File).name).toBe('a.step')
  })
})
