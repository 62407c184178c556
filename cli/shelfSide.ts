import type { Listed } from '../core/plain/bound'
import { renameNested } from '../core/plain/names'
import type { ReportDefinition } from '../core/definition/report'
import type { LibraryShelf } from '../core/api/answers'
import type { Context } from '../server/access/context'
import type { Estante } from '../server/estante'
import { ConflictError } from '../server/store/records'
import type { Server } from './parts'
import { UsageError } from './usage'

/** What became of a save: its version, or where it is kept beside one that came before it. */
export type Saved = { version: number } | { keptAs: number }

/** The library, as a folder that is bound to one of its shelves needs it. */
export interface ShelfSide {
  library: () => Promise<LibraryShelf[]>
  report: (id: string) => Promise<{ version: number; definition: ReportDefinition }>
  save: (id: string, basedOn: number, definition: ReportDefinition) => Promise<Saved>
  rename: (id: string, name: string) => Promise<unknown>
  create: (name: string, shelf: string, definition: ReportDefinition) => Promise<string>
}

/** The library of a server that holds the data. */
export const sideOfServer = (server: Server): ShelfSide => ({
  library: () => server.ask('/api/library'),
  report: id => server.ask(`/api/reports/${id}`),
  save: async (id, basedOn, definition) => {
    const body = JSON.stringify({ basedOn, definition })
    const init = { method: 'PUT', headers: { 'content-type': 'application/json' }, body }
    try {
      return await server.ask<{ version: number }>(`/api/reports/${id}`, init)
    } catch (error) {
      const kept = error instanceof UsageError && error.data?.kept
      if (typeof kept === 'number') return { keptAs: kept }
      throw error
    }
  },
  rename: (id, name) =>
    server.ask(`/api/reports/${id}/name`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name }),
    }),
  create: async (name, shelf, definition) => (await server.send<{ id: string }>('/api/reports', { name, shelf, definition })).id,
})

/** The library of a data folder that is opened here. */
export const sideOfFolder = (context: Context, { store }: Estante): ShelfSide => ({
  library: () => store.library(context),
  report: id => store.report(context, id),
  save: async (id, basedOn, definition) => {
    try {
      return { version: await store.save(context, id, basedOn, definition) }
    } catch (error) {
      if (error instanceof ConflictError) return { keptAs: error.kept }
      throw error
    }
  },
  rename: (id, name) => store.shelving.rename(context, id, name),
  create: (name, shelf, definition) => store.create(context, shelf, name, definition, false),
})

/** Reports of a shelf, and what each report of the library is called. */
export function onShelf(library: readonly LibraryShelf[], shelf: string): { listed: Listed[]; names: Map<string, string> } {
  const all = library.flatMap(each => each.reports)
  const own = library.find(each => each.name === shelf)?.reports ?? []
  return {
    listed: own.filter(each => each.edit !== false).map(({ id, name, version }) => ({ id, name, version })),
    names: new Map(all.map(each => [each.id, each.name])),
  }
}

/** A definition with other reports by their names, or by their ids. */
export const named = (definition: ReportDefinition, names: ReadonlyMap<string, string>): ReportDefinition =>
  renameNested(definition, each => names.get(each) ?? each)
