import { randomUUID } from 'node:crypto'
import { desc, eq } from 'drizzle-orm'
import type { Context } from '../access/context'
import { isOnTeam } from '../access/reports'
import type { Database } from './database'
import { StoreError } from './records'
import { shelves } from './schema'

/** The shelf of a name, put up at the end where there is none yet. @throws StoreError where it is a team's that whoever asks is not in */
export async function shelfNamed(change: Database, context: Context, name: string): Promise<typeof shelves.$inferSelect> {
  const [known] = await change.select().from(shelves).where(eq(shelves.name, name))
  if (known?.teamId && !isOnTeam(context, known.teamId))
    throw new StoreError(`The shelf “${name}” is a team’s that you are not in; choose another.`, 403)
  if (known) return known
  const [last] = await change.select({ place: shelves.place }).from(shelves).orderBy(desc(shelves.place)).limit(1)
  const shelf = { id: randomUUID(), name, place: (last?.place ?? 0) + 1, teamId: null, release: false }
  await change.insert(shelves).values(shelf)
  return shelf
}
