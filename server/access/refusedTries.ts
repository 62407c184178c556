import type { Audit } from './audit'

/** How long tries of one address are counted together, in milliseconds. */
const together = 60_000

/**
 * Sign-ins that were refused, for the log: the first of an address at once, and how many came after it once a minute, so that guessing
 * does not fill the log or keep the store busy.
 */
export class RefusedTries {
  private readonly counted = new Map<string, { count: number; what: string | undefined; timer: NodeJS.Timeout }>()

  constructor(private readonly audit: Pick<Audit, 'entry'>) {}

  async add(address: string, what?: string): Promise<void> {
    const own = this.counted.get(address)
    if (own) return void own.count++
    const timer = setTimeout(() => void this.tell(address), together)
    timer.unref()
    this.counted.set(address, { count: 0, what, timer })
    await this.audit.entry('sign-in refused', what === undefined ? {} : { what }, { id: '', name: '', address })
  }

  private async tell(address: string): Promise<void> {
    const own = this.counted.get(address)
    this.counted.delete(address)
    if (!own) return
    clearTimeout(own.timer)
    if (own.count)
      await this.audit
        .entry('sign-in refused', { what: `${own.count} more`, tries: own.count }, { id: '', name: '', address })
        .catch(() => {})
  }

  /** What is counted is written down now. */
  async close(): Promise<void> {
    for (const address of [...this.counted.keys()]) await this.tell(address)
  }
}
