import { RateLimiterMemory, type RateLimiterRes } from 'rate-limiter-flexible'
import { HashTurns } from './hashTurns'
import { StoreError } from '../store/records'

/** Wrong tries that an address has for one name, and for all, in so many seconds; beyond these it waits. */
const perName = { points: 6, duration: 600 }
const perAddress = { points: 40, duration: 600 }

/**
 * Slows down guessing. Each address has its own tries: whoever guesses from elsewhere never keeps the right person out. What is refused
 * here costs no hash of a password.
 */
export class Guesses {
  private readonly names = new RateLimiterMemory({ ...perName, keyPrefix: 'name' })
  private readonly turns = new HashTurns()
  /** how many tries of an address are being looked at, or wait for it */
  private readonly looking = new Map<string, number>()
  private readonly addresses = new RateLimiterMemory({ ...perAddress, keyPrefix: 'address' })

  /** Does it, unless there were too many wrong tries; one that is wrong counts. @throws StoreError */
  async slowed<T>(address: string, name: string, work: () => Promise<T>): Promise<T> {
    const own = `${address} ${name.trim().toLowerCase().slice(0, 200)}`
    // one who is being looked at already is in a hurry that people are not
    let doubtful = this.looking.has(address)
    for (const [limiter, key] of [
      [this.names, own],
      [this.addresses, address],
    ] as const) {
      const found = await limiter.get(key)
      if (found && found.remainingPoints <= 0) throw tooMany(found)
      doubtful ||= !!found && found.consumedPoints > 0
    }
    this.looking.set(address, (this.looking.get(address) ?? 0) + 1)
    try {
      const done = await this.turns.run(doubtful, work)
      await this.names.delete(own)
      return done
    } catch (error) {
      if (error instanceof StoreError && error.status === 401)
        for (const [limiter, key] of [
          [this.names, own],
          [this.addresses, address],
        ] as const)
          await limiter.consume(key).catch(() => {})
      throw error
    } finally {
      const left = this.looking.get(address)! - 1
      if (left) this.looking.set(address, left)
      else this.looking.delete(address)
    }
  }
}

function tooMany({ msBeforeNext }: RateLimiterRes): StoreError {
  const minutes = Math.max(1, Math.ceil(msBeforeNext / 60_000))
  return new StoreError(`There were too many wrong tries; try again in ${minutes} ${minutes === 1 ? 'minute' : 'minutes'}.`, 429)
}
