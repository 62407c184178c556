import { randomUUID } from 'node:crypto'
import { StoreError } from '../store/records'
import { plainId } from './namedSource'
import type { Sources } from './sources'

/** A name that a source can have. @throws StoreError where there is none, or another source has it */
export function sourceName(sources: Sources, name: string, own?: string): string {
  const wanted = name.trim()
  if (!wanted) throw new StoreError('The source needs a name; give it one.', 422)
  if (sources.list().some(each => plainId(each.id) !== own && each.name.toLowerCase() === wanted.toLowerCase()))
    throw new StoreError(`There is a source “${wanted}” already; choose another name.`, 409)
  return wanted
}

/** The name of a new source, and an id of its own made from it. @throws StoreError where it cannot have that name */
export function newSource(sources: Sources, name: string): { id: string; name: string } {
  const wanted = sourceName(sources, name)
  const slug = wanted
    .normalize('NFD')
    .replace(/[^a-zA-Z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .toLowerCase()
    .slice(0, 40)
  return { id: `${slug || 'source'}-${randomUUID().slice(0, 8)}`, name: wanted }
}
