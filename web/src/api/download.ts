import { Problem, SILENT, type ProblemBody } from './problem'

const NAMED = /filename="([^"]+)"/

/** A file of the server's and its name; throws its problem where it is refused. */
export async function takeFile(address: string): Promise<{ name: string; content: Blob }> {
  const answer = await fetch(address).catch(() => { throw SILENT })
  if (!answer.ok) {
    throw new Problem((await answer.json().catch(() => ({ status: answer.status }))) as Partial<ProblemBody>)
  }
  const name = NAMED.exec(answer.headers.get('Content-Disposition') ?? '')?.[1]
  return { name: name ?? address.split('/').pop() ?? '', content: await answer.blob() }
}
