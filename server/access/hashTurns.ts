import { setTimeout as wait } from 'node:timers/promises'
import { StoreError } from '../store/records'

/** Tries of doubtful addresses that wait at most. */
const mostWaiting = 30

/**
 * Turns for looking at passwords, which is dear on purpose: one at a time, so that guessing takes no more than half a core from everybody
 * else. Whoever has not tried wrongly goes first, the last to come before all: a crowd that comes at once keeps nobody out who comes after
 * it. Between those who have tried wrongly, one rests as long as each took.
 */
export class HashTurns {
  private readonly clean: (() => void)[] = []
  private readonly doubtful: (() => void)[] = []
  private busy = false

  /** @throws StoreError where too many doubtful ones wait already */
  async run<T>(isDoubtful: boolean, work: () => Promise<T>): Promise<T> {
    const queue = isDoubtful ? this.doubtful : this.clean
    if (this.busy) {
      if (isDoubtful && queue.length >= mostWaiting) throw new StoreError('Too many try to sign in just now; try again in a minute.', 429)
      await new Promise<void>(resolve => queue.push(resolve))
    }
    this.busy = true
    const began = performance.now()
    try {
      return await work()
    } finally {
      void this.next(isDoubtful ? performance.now() - began : 0)
    }
  }

  private async next(rest: number): Promise<void> {
    const first = this.clean.pop()
    if (first) return first()
    // whoever comes meanwhile and has not tried wrongly does not wait for the rest
    for (let rested = 0; rested < rest && !this.clean.length; rested += 10) await wait(10)
    const then = this.clean.pop() ?? this.doubtful.shift()
    if (then) then()
    else this.busy = false
  }
}
