import type { Secrets } from '../store/secrets'
import { type Connection, StoreError } from '../store/records'
import type { Source } from './contract'
import { openCopy } from './copies/addCopy'
import { openFiles } from './files/addFiles'
import { namedKind, type NamedOptions, NamedSource, type Within } from './namedSource'
import { serverSource } from './postgres/addServer'

/** Kinds of sources that people add, and how each is opened: a line for each. */
const kinds: Record<string, (connection: Connection, folder: string, secrets: Secrets, within: Within) => Source> = {
  files: openFiles,
  copy: openCopy,
  server: serverSource,
  [namedKind]: ({ id, name, options }, _folder, _secrets, within) => new NamedSource(id, name, options as NamedOptions, within),
}

/** A source as it was added. @throws StoreError */
export function connected(connection: Connection, folder: string, secrets: Secrets, within: Within): Source {
  const open = kinds[connection.kind]
  if (!open) throw new StoreError(`“${connection.name}” is a source of a kind that this program does not know; use a newer one.`, 500)
  return open(connection, folder, secrets, within)
}
