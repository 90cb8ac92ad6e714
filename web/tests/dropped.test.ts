import { describe, expect, it } from 'vitest'

import { type Entry, filesOf } from '@/lib/dropped'

const file = (name: string): Entry => ({ isFile: true, isDirectory: false, file: (found) => found(new File(['x'], name)) })

/** A folder whose reader gives its entries by twos, as browsers give them by hundreds. */
function folder(...inside: Entry[]): Entry {
  const left = [...inside]
  return { isFile: false, isDirectory: true, createReader: () => ({ readEntries: (found) => found(left.splice(0, 2)) }) }
}

const names = async (...entries: Entry[]) => (await filesOf(entries)).map((f) => f.name)

describe('what is dropped onto the rack', () => {
  it('is every single file, so that each is answered', async () => {
    expect(await names(file('a.step'), file('letter.txt'))).toEqual(['a.step', 'letter.txt'])
  })

  it('is of a folder what may be a part, however deep and in however many portions', async () => {
    const deep = folder(file('d.STP'), folder(file('e.zip')))
    expect(await names(folder(file('p10.step'), file('p2.dxf'), file('note.pdf'), deep, file('p1.step')))).toEqual([
      'd.STP', 'e.zip', 'p1.step', 'p2.dxf', 'p10.step',
    ])
  })

  it('is nothing where a folder is empty', async () => {
    expect(await names(folder())).toEqual([])
  })

  it('fails with what cannot be read', async () => {
    const gone: Entry = { isFile: true, isDirectory: false, file: (_, failed) => failed(new Error('gone')) }
    await expect(filesOf([gone])).rejects.toThrow('gone')
  })
})
