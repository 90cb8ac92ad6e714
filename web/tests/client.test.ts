import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

vi.mock('@/router', () => ({ router: {} }))

const sent: Request[] = []
const page = new EventTarget()

/** Whether leaving the page now would be asked about. */
const isAsked = () => !page.dispatchEvent(new Event('beforeunload', { cancelable: true }))

// Paths are the page's own there; here they need an address to stand on.
class Asked extends Request {
  constructor(to: RequestInfo | URL, init?: RequestInit) {
    super(typeof to === 'string' ? new URL(to, 'http://shop.test') : to, init)
  }
}

beforeEach(() => {
  sent.length = 0
  vi.stubGlobal('document', { cookie: 'csrftoken=t' })
  vi.stubGlobal('window', page)
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

  it('is asked about before the page is left, for as long as it is on its way and would be lost', async () => {
    const arrive: (() => void)[] = []
    vi.stubGlobal('fetch', () => new Promise((done) => arrive.push(() => done(new Response('{}')))))
    const { client, putFile } = await import('../src/api/client')
    const short = client.PATCH('/api/stores/sheets/{sheet}', { ...sheet, body: { count: 3 } })
    await vi.waitFor(() => expect(arrive.length).toBe(1))
    expect(isAsked()).toBe(false)
    const file = putFile(1, new File(['solid'], 'a.step'))
    await vi.waitFor(() => expect(arrive.length).toBe(2))
    expect(isAsked()).toBe(true)
    arrive[1]?.()
    await file
    expect(isAsked()).toBe(false)
    arrive[0]?.()
    await short
  })

  it('is not sent to outlast the page where all of it together is more than browsers see through', async () => {
    const arrive: (() => void)[] = []
    vi.stubGlobal('fetch', (request: Request) => (sent.push(request), new Promise((done) => arrive.push(() => done(new Response('{}'))))))
    const { client } = await import('../src/api/client')
    const put = (text: string) => client.PUT('/api/stores/tables/{name}', { params: { path: { name: 'stock' } }, body: { name: 's.csv', text } })
    const changes = ['é'.repeat(20_000), 'x'.repeat(30_000), 'x'].map((text) => put(text))
    await vi.waitFor(() => expect(arrive.length).toBe(3))
    expect(sent.map((r) => r.keepalive)).toEqual([true, false, true])
    arrive.forEach((done) => { done() })
    await Promise.all(changes)
    expect(isAsked()).toBe(false)
  })

  it('is not asked about any more once it has failed', async () => {
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('no network')))
    const { putFile } = await import('../src/api/client')
    await expect(putFile(1, new File(['solid'], 'a.step'))).rejects.toThrow()
    expect(isAsked()).toBe(false)
  })
})
