import type { Pool, PoolClient } from 'pg'

const channel = 'estante_work'
/** How long is waited before a connection that was lost is opened again, in milliseconds. */
const patience = 5000

/**
 * Tells programs that share a store that there is work (PostgreSQL manual, LISTEN and NOTIFY). It only saves waiting: whoever does not hear
 * it, because a pooler stands between or a connection was lost, finds the work when it looks the next time. A store of one's own has none.
 */
export class WorkBell {
  private readonly hearing: (() => void)[] = []
  private client: PoolClient | undefined
  private again: NodeJS.Timeout | undefined
  private closed = false

  constructor(private readonly pool?: Pool) {}

  /** May other programs share the store? */
  get shared(): boolean {
    return this.pool !== undefined
  }

  /** Is called whenever any program has rung. */
  async on(heard: () => void): Promise<void> {
    this.hearing.push(heard)
    if (this.hearing.length === 1) await this.listen()
  }

  async ring(): Promise<void> {
    await this.pool?.query('select pg_notify($1, $2)', [channel, '']).catch(() => {})
  }

  private async listen(): Promise<void> {
    if (!this.pool || this.closed) return
    try {
      const client = await this.pool.connect()
      this.client = client
      client.on('notification', ({ channel: rung }) => rung === channel && this.hearing.forEach(heard => heard()))
      client.on('error', () => this.lost(client))
      await client.query(`listen ${channel}`)
      if (this.closed) this.drop()
    } catch {
      this.lost(this.client)
    }
  }

  private lost(client: PoolClient | undefined): void {
    if (client !== this.client || this.closed) return
    this.drop()
    this.again = setTimeout(() => void this.listen(), patience)
    this.again.unref()
  }

  private drop(): void {
    const { client } = this
    this.client = undefined
    client?.removeAllListeners('notification')
    client?.release(true)
  }

  close(): void {
    this.closed = true
    clearTimeout(this.again)
    this.drop()
  }
}
