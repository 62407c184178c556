import type { PackDefinition } from '../../core/pack/definition'
import type { When } from '../../core/pack/when'
import { ownContext } from '../access/context'
import { closedPeriods } from '../sources/reading/closedPeriods'
import { keptRecord } from '../sources/copies/generations'
import { contextOfRun } from '../runs/theirs'
import { aroundOf, type PackApp, packSources } from './parts'
import type { PackRunner } from './runner'
import type { Happening, ScheduleWorld } from './schedule'

/** What schedules of packs ask of the rest of the program. */
export function scheduleWorld(app: PackApp, runner: PackRunner): ScheduleWorld {
  const { store, sources } = app
  const closed = async (pack: PackDefinition): Promise<Happening[]> => {
    const found: Happening[] = []
    for (const id of await packSources(ownContext, app, pack)) {
      const { catalog } = await sources.catalog(ownContext, id)
      const periods = await sources.reading(ownContext, id, (snapshot, { schema }) => closedPeriods(snapshot, catalog, schema))
      // one that is opened again and closed once more is closed anew
      found.push(...periods.map(({ code, on }) => ({ key: ['closed', code, on].filter(Boolean).join(' ') })))
    }
    return found
  }
  /** The newest generation of a source: a moment each, which tells it from all others. */
  const refreshed = async (source: string): Promise<Happening[]> => {
    const connection = (await store.connections(ownContext)).find(each => each.id === source)
    if (!connection) return []
    const newest = keptRecord(connection.options).generations.reduce((one, other) => (other.number > one.number ? other : one))
    return [{ key: `refreshed ${newest.at}`, at: Date.parse(newest.at) }]
  }
  return {
    days: () => store.company.days(ownContext),
    calendar: async pack => (await aroundOf(ownContext, app, await packSources(ownContext, app, pack))).calendar,
    happened: async (when: When, pack) => (when.is === 'closed' ? closed(pack) : when.is === 'refreshed' ? refreshed(when.source) : []),
    begin: async (pack, occasion) => {
      const own = await contextOfRun({ person: 'estante', personId: pack.ownerId }, store)
      // in the name of somebody who is gone it is written down as failed, for all to see
      const context = own ?? { person: 'estante' }
      const id = await runner.start(context, pack, { answers: {}, occasion, owner: pack.ownerId })
      if (!id) return
      const who = { id: pack.ownerId ?? 'estante', name: own?.signedIn?.name ?? 'Estante' }
      await store.audit.entry('pack run', { what: pack.name, id: pack.id, run: id, occasion }, who)
    },
  }
}
