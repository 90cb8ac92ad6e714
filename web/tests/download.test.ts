import { afterEach, describe, expect, it, vi } from 'vitest'

import { takeFile } from '../src/api/download'
import { SILENT } from '../src/api/problem'

const answers = (body: string, status: number, headers: Record<string, string> = {}) =>
  vi.stubGlobal('fetch', () => Promise.resolve(new Response(body, { status, headers })))

afterEach(() => vi.unstubAllGlobals())

describe('a file of the server', () => {
  it('comes with the name the server gives it', async () => {
    answers('0 SECTION', 200, { 'Content-Disposition': 'attachment; filename="tray.dxf"' })
    const { name, content } = await takeFile('/api/parts/1/files/dxf')
    expect([name, await content.text()]).toEqual(['tray.dxf', '0 SECTION'])
  })

  it('has the end of its address for a name where the server gives none', async () => {
    answers('x', 200)
    expect((await takeFile('/api/parts/1/files/dxf')).name).toBe('dxf')
  })

  it('that is refused tells what, where and how to mend it', async () => {
    answers(JSON.stringify({ status: 422, detail: 'the packet is not ready', where: 'T-1', fix: 'Wait' }), 422)
    await expect(takeFile('/api/packets/1/zip')).rejects.toMatchObject({ message: 'the packet is not ready', where: 'T-1', fix: 'Wait' })
  })

  it('is told when the answer is no document, and when there is none', async () => {
    answers('<html>', 502)
    await expect(takeFile('/api/packets/1/zip')).rejects.toMatchObject({ status: 502 })
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('no')))
    await expect(takeFile('/api/packets/1/zip')).rejects.toBe(SILENT)
  })
})
