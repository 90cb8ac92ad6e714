import { ElMessage } from 'element-plus/es/components/message/index'

import { asProblem } from '@/api/problem'

/** px: the head, and a strip under it that says that the server is silent, stay readable. */
const BELOW_THE_HEAD = 76

/** Say an error in one line: what, where, how to mend it. */
export function tell(error: unknown): void {
  const problem = asProblem(error)
  const place = problem.where ? `${problem.where}: ` : ''
  const fix = problem.fix ? `. ${problem.fix}.` : '.'
  ElMessage({ type: 'error', message: `${place}${problem.message}${fix}`, duration: 8000, showClose: true, offset: BELOW_THE_HEAD })
}
