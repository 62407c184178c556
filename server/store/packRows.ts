import { randomUUID } from 'node:crypto'
import { and, asc, desc, eq, inArray, max, sql } from 'drizzle-orm'
import { type PackDefinition, readPack } from '../../core/pack/definition'
import type { Context } from '../access/context'
import type { Database } from './database'
import { StoreError } from './records'
import { packOccasions, packs } from './schema'

export type PackRow = Omit<typeof packs.$inferSelect, 'definition'> & { definition: PackDefinition }
export type OccasionRow = typeof packOccasions.$inferSelect

/** A pack that is due at times is due from now on; one that waits for something to happen, from when it is known what has happened. */
const beginsAt = ({ when }: PackDefinition): Date | null => (when && when.is !== 'times' ? null : new Date())

/** Packs, and the occasions that they were told of. */
export class PackRows {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
  ) {}

  async list(_: Context): Promise<PackRow[]> {
    return (await this.database().select().from(packs).orderBy(asc(packs.place), asc(packs.name))) as PackRow[]
  }

  /** @throws StoreError where it is not there */
  async find(_: Context, id: string): Promise<PackRow> {
    const [row] = await this.database().select().from(packs).where(eq(packs.id, id))
    if (!row) throw new StoreError('This pack is not here any more; it was deleted.', 404)
    return row as PackRow
  }

  /** @throws StoreError where the name is taken */
  async add({ signedIn }: Context, name: string, definition: PackDefinition): Promise<string> {
    await this.needName(name)
    const id = randomUUID()
    const [last] = await this.database()
      .select({ place: max(packs.place) })
      .from(packs)
    await this.saved(() =>
      this.database()
        .insert(packs)
        .values({
          id,
          name: name.trim(),
          place: (last?.place ?? 0) + 1,
          version: 1,
          definition: readPack(definition),
          ownerId: signedIn?.id ?? null,
          since: beginsAt(definition),
        }),
    )
    return id
  }

  /** @throws StoreError where it was changed since `basedOn`, or the name is taken */
  async save({ signedIn }: Context, id: string, name: string, definition: PackDefinition, basedOn: number): Promise<number> {
    await this.needName(name, id)
    const before = await this.find({ person: '' }, id)
    const begins = JSON.stringify(before.definition.when) !== JSON.stringify(definition.when)
    const [row] = await this.saved(() =>
      this.database()
        .update(packs)
        .set({
          name: name.trim(),
          definition: readPack(definition),
          version: basedOn + 1,
          ownerId: signedIn?.id ?? null,
          ...(begins ? { since: beginsAt(definition) } : {}),
        })
        .where(and(eq(packs.id, id), eq(packs.version, basedOn)))
        .returning({ version: packs.version }),
    )
    if (!row) throw new StoreError('Somebody else changed this pack in the meantime; open it again and make your change once more.', 409)
    return row.version
  }

  async remove(_: Context, id: string): Promise<void> {
    await this.saved(() => this.database().delete(packs).where(eq(packs.id, id)))
  }

  private async needName(name: string, own = ''): Promise<void> {
    if (!name.trim()) throw new StoreError('A pack needs a name.', 422)
    const [taken] = await this.database()
      .select({ id: packs.id })
      .from(packs)
      .where(sql`lower(${packs.name}) = lower(${name.trim()})`)
    if (taken && taken.id !== own) throw new StoreError(`There is a pack “${name.trim()}” already; choose another name.`, 409)
  }

  /** Occasions that are not worked off: missed ones, or what had happened before. False for one that was told of already. */
  async leaveOut(packId: string, occasion: string, state: 'left' | 'before'): Promise<boolean> {
    const rows = await this.saved(() =>
      this.database()
        .insert(packOccasions)
        .values({ packId, occasion, state, at: new Date() })
        .onConflictDoNothing()
        .returning({ occasion: packOccasions.occasion }),
    )
    return rows.length > 0
  }

  /** What has happened so far is known: the pack waits for what comes. */
  async wait(packId: string): Promise<void> {
    await this.saved(() => this.database().update(packs).set({ since: new Date() }).where(eq(packs.id, packId)))
  }

  /** Occasions of a pack, the latest first. */
  async occasions(packId: string, most: number): Promise<OccasionRow[]> {
    return this.database()
      .select()
      .from(packOccasions)
      .where(eq(packOccasions.packId, packId))
      .orderBy(desc(packOccasions.at), desc(packOccasions.occasion))
      .limit(most)
  }

  /** Those of some that a pack has not been told of. */
  async unknown(packId: string, keys: readonly string[]): Promise<string[]> {
    if (!keys.length) return []
    const known = await this.database()
      .select({ occasion: packOccasions.occasion })
      .from(packOccasions)
      .where(and(eq(packOccasions.packId, packId), inArray(packOccasions.occasion, [...keys])))
    const told = new Set(known.map(each => each.occasion))
    return keys.filter(key => !told.has(key))
  }
}
