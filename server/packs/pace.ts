/** So many a minute at most, evenly. */
export class Pace {
  private next = 0

  constructor(private readonly perMinute: number | undefined) {}

  async turn(signal: AbortSignal): Promise<void> {
    if (!this.perMinute) return
    const now = Date.now()
    const at = Math.max(now, this.next)
    this.next = at + 60_000 / this.perMinute
    if (at > now) await pause(at - now, signal)
  }
}

/** Waits. @throws the reason of the signal, where it is stopped meanwhile */
export function pause(milliseconds: number, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    if (signal.aborted) return reject(signal.reason as Error)
    const stop = () => {
      clearTimeout(timer)
      reject(signal.reason as Error)
    }
    const timer = setTimeout(() => {
      signal.removeEventListener('abort', stop)
      resolve()
    }, milliseconds)
    signal.addEventListener('abort', stop, { once: true })
  })
}
