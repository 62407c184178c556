/** What a thread and whoever gave it a task tell one another beside messages, so that a thread at work hears it at once. */
export const taskSigns = { stop: 0, started: 1, beats: 2 } as const
export const signsLength = 3

/** A task that was told to stop. */
export class Stopped extends Error {
  constructor() {
    super('The run was cancelled.')
  }
}

let signs: Int32Array | undefined

/** The task of this thread from now on; a thread has one at a time. */
export function listen(own: Int32Array | undefined): void {
  signs = own
  if (own) Atomics.store(own, taskSigns.started, 1)
}

/** Said wherever a task goes on to its next page or stretch of records: it lives, and ends here if it was told to. @throws Stopped */
export function goOn(): void {
  if (!signs) return
  Atomics.add(signs, taskSigns.beats, 1)
  if (Atomics.load(signs, taskSigns.stop)) throw new Stopped()
}
