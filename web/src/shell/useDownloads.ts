import { onScopeDispose } from 'vue'

import { takeFile } from '@/api/download'

import { tell } from './tell'

/** How long a browser may take to begin keeping a file, ms. */
const TAKEN = 60_000

function keep(name: string, content: Blob): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(content)
  link.download = name
  link.click()
  setTimeout(() => { URL.revokeObjectURL(link.href) }, TAKEN)
}

async function download(link: HTMLAnchorElement): Promise<void> {
  if (link.ariaBusy === 'true') return
  link.ariaBusy = 'true'
  try {
    const { name, content } = await takeFile(link.href)
    keep(name, content)
  } catch (error) {
    tell(error)
  } finally {
    link.ariaBusy = 'false'
  }
}

/** Links to files of the server tell why one is refused, which the browser's own would not. */
export function useDownloads(): void {
  function press(event: MouseEvent): void {
    const link = event.target instanceof Element ? event.target.closest<HTMLAnchorElement>('a[download]') : null
    if (!link?.href.startsWith(`${location.origin}/api/`) || event.ctrlKey || event.metaKey || event.shiftKey) return
    event.preventDefault()
    void download(link)
  }
  document.addEventListener('click', press)
  onScopeDispose(() => { document.removeEventListener('click', press) })
}
