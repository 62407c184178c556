import { auditKinds } from '../../core/api/audit'
import { RequestError } from '../../core/api/requests'
import { parseDay } from '../../core/value/date'
import type { AuditSearch } from '../access/audit'

/** What is looked for in the log, out of the words of an address; `from` and `to` are whole days of UTC. @throws RequestError */
export function auditSearchOf(asked: Record<string, string | undefined>): AuditSearch {
  const kind = auditKinds.find(each => each === asked.kind)
  if (asked.kind && !kind) throw new RequestError(`There is no kind “${asked.kind.slice(0, 40)}”; there are ${auditKinds.join(', ')}.`)
  const day = (name: 'from' | 'to'): number | undefined => {
    if (!asked[name]) return undefined
    const found = parseDay(asked[name])
    if (found === undefined) throw new RequestError(`“${asked[name].slice(0, 40)}” is no day; write it such as 2026-12-31.`)
    return found
  }
  const [from, to] = [day('from'), day('to')]
  const start = (own: number) => new Date(own * 86_400_000)
  return {
    ...(kind ? { kind } : {}),
    ...(from === undefined ? {} : { from: start(from) }),
    ...(to === undefined ? {} : { until: start(to + 1) }),
    ...(asked.words ? { words: asked.words } : {}),
  }
}
