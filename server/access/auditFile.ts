import { stringify } from 'csv-stringify/sync'
import type { AuditEntry } from '../../core/api/audit'
import { guarded } from '../runs/formats/rows'
import type { Audit, AuditSearch } from './audit'
import type { Context } from './context'

const atOnce = 1000

/** Entries of the log as text, a line or more at a time. */
export async function* auditFile(context: Context, audit: Audit, search: AuditSearch, format: 'csv' | 'jsonl'): AsyncGenerator<string> {
  if (format === 'csv') yield stringify([['number', 'at', 'kind', 'person', 'name', 'address', 'about']], { record_delimiter: '\r\n' })
  for (let below: number | undefined; ;) {
    const entries = await audit.search(context, search, atOnce, below)
    if (entries.length) yield format === 'csv' ? csvOf(entries) : entries.map(each => `${JSON.stringify(each)}\n`).join('')
    if (entries.length < atOnce) return
    below = entries.at(-1)!.number
  }
}

const csvOf = (entries: readonly AuditEntry[]): string =>
  stringify(
    entries.map(({ number, at, kind, about, personal }) => [
      number,
      at,
      kind,
      ...[personal?.id, personal?.name, personal?.address, JSON.stringify(about)].map(text => guarded(text ?? '')),
    ]),
    { record_delimiter: '\r\n' },
  )
