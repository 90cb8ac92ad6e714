/** What a browser tells of a thing dropped: a file, or a folder with more of them. */
export interface Entry {
  isFile: boolean
  isDirectory: boolean
  file?: (found: (file: File) => void, failed: (error: unknown) => void) => void
  createReader?: () => { readEntries: (found: (entries: Entry[]) => void, failed: (error: unknown) => void) => void }
}

const PART = /\.(step|stp|dxf|json|zip)$/i

/** The files of a folder, and of the folders in it, in the order of their names. */
async function filesIn(entry: Entry): Promise<File[]> {
  const { createReader, file } = entry
  if (file) return [await new Promise<File>((found, failed) => file.call(entry, found, failed))]
  if (!createReader) return []
  const reader = createReader.call(entry)
  const entries: Entry[] = []
  // A reader gives its entries in portions until one is empty.
  for (;;) {
    const portion = await new Promise<Entry[]>((found, failed) => reader.readEntries(found, failed))
    if (!portion.length) break
    entries.push(...portion)
  }
  const files = (await Promise.all(entries.map(filesIn))).flat()
  return files.sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }))
}

/** Every file that was dropped; of a folder only what may be a part, of single ones all, so that each is answered. */
export async function filesOf(entries: readonly Entry[]): Promise<File[]> {
  const found = await Promise.all(
    entries.map(async (e) => (e.isDirectory ? (await filesIn(e)).filter((f) => PART.test(f.name)) : filesIn(e))),
  )
  return found.flat()
}
