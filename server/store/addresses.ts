import { randomUUID } from 'node:crypto'
import { and, desc, eq, sql } from 'drizzle-orm'
import type { Context } from '../access/context'
import { hashedSecret, newSecret } from '../access/secrets'
import type { Database } from './database'
import { type RefreshAddress, StoreError } from './records'
import { refreshAddresses } from './schema'

/** Addresses under which a spreadsheet reads the rows of a report again and again, in the name of whoever made them. */
export class Addresses {
  constructor(
    private readonly database: () => Database,
    private readonly saved: <T>(change: () => Promise<T>) => Promise<T>,
    /** lets whoever asks edit a report, or throws */
    private readonly needEdit: (context: Context, report: string) => Promise<void>,
  ) {}

  /** Makes an address for a report with fixed answers, and gives the secret part of it: it is told only now. */
  async add(
    { signedIn }: Context,
    reportId: string,
    wanted: Pick<RefreshAddress, 'label' | 'answers' | 'output' | 'until'>,
  ): Promise<{ id: string; token: string }> {
    const [id, token] = [randomUUID(), newSecret()]
    await this.saved(() =>
      this.database()
        .insert(refreshAddresses)
        .values({ id, reportId, personId: signedIn?.id ?? null, tokenHash: hashedSecret(token), ...wanted }),
    )
    return { id, token }
  }

  /** Addresses of a report, the newest first; those taken back too. */
  async list(_: Context, reportId: string): Promise<RefreshAddress[]> {
    const rows = await this.database()
      .select()
      .from(refreshAddresses)
      .where(eq(refreshAddresses.reportId, reportId))
      .orderBy(desc(refreshAddresses.createdAt))
    return rows.map(({ tokenHash: _, ...row }) => row as RefreshAddress)
  }

  /** @throws StoreError where it is not there, or its report is not theirs */
  async revoke(context: Context, id: string): Promise<void> {
    const [address] = await this.database()
      .select({ report: refreshAddresses.reportId })
      .from(refreshAddresses)
      .where(eq(refreshAddresses.id, id))
    if (address) await this.needEdit(context, address.report)
    const [row] = await this.saved(() =>
      this.database()
        .update(refreshAddresses)
        .set({ revokedAt: new Date() })
        .where(and(eq(refreshAddresses.id, id), sql`${refreshAddresses.revokedAt} is null`))
        .returning({ id: refreshAddresses.id }),
    )
    if (!row) throw new StoreError('This refresh address was taken back already, or is not kept any more.', 404)
  }

  /** The address that a secret stands for, with a use counted. @throws StoreError where there is none, or none that still answers */
  async use(_context: Context, token: string, today: string): Promise<RefreshAddress> {
    const [row] = await this.database()
      .select()
      .from(refreshAddresses)
      .where(eq(refreshAddresses.tokenHash, hashedSecret(token)))
    if (!row) throw new StoreError('There is no such refresh address; copy it whole, or ask the report’s author for a new one.', 404)
    if (row.revokedAt) throw new StoreError('This refresh address was taken back; ask the report’s author for a new one.', 410)
    if (row.until < today)
      throw new StoreError(`This refresh address answered until ${row.until}; ask the report’s author for a new one.`, 410)
    await this.database()
      .update(refreshAddresses)
      .set({ uses: sql`${refreshAddresses.uses} + 1`, lastUsedAt: new Date() })
      .where(eq(refreshAddresses.id, row.id))
    const { tokenHash: _, ...address } = row
    return address as RefreshAddress
  }
}
