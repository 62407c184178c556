import { RateLimiterMemory, type RateLimiterRes } from 'rate-limiter-flexible'
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
  private readonly addresses = new RateLimiterMemory({ ...perAddress, keyPrefix: 'address' })

  /** Does it, unless there were too many wrong tries; one that is wrong counts. @throws StoreError */
  async slowed<T>(address: string, name: string, work: () => Promise<T>): Promise<T> {
    const own = `${address} ${name.trim().toLowerCase().slice(0, 200)}`
    for (const [limiter, key] of [
      [this.names, own],
      [this.addresses, address],
    ] as const) {
      const found = await limiter.get(key)
      if (found && found.remainingPoints <= 0) throw tooMany(found)
    }
    try {
      const done = await work()
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
    }
  }
}

function tooMany({ msBeforeNext }: RateLimiterRes): StoreError {
  const minutes = Math.max(1, Math.ceil(msBeforeNext / 60_000))
  return new StoreError(`There were too many wrong tries; try again in ${minutes} ${minutes === 1 ? 'minute' : 'minutes'}.`, 429)
}
