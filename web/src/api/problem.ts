import type { components } from './schema'

export type ProblemBody = components['schemas']['Problem']

/** What went wrong, where, and how to mend it: the one shape of every error. */
export class Problem extends Error {
  readonly status: number
  readonly where: string
  readonly fix: string

  constructor(body: Partial<ProblemBody>) {
    super(body.detail ?? 'The server did not answer as expected')
    this.status = body.status ?? 0
    this.where = body.where ?? ''
    this.fix = body.fix ?? ''
  }
}

export const SILENT = new Problem({
  detail: 'The server does not answer',
  fix: 'Look whether it runs (./kaigata start); the page goes on by itself then',
  status: 0,
})

export function asProblem(error: unknown): Problem {
  return error instanceof Problem ? error : new Problem({ detail: String(error) })
}
