import { type Chunk, type Fetch, readRecords, type ReadOptions } from '../../core/read/read'
import type { ReadyRun } from './ready'
import type { Plan } from '../../core/sql/plan'
import { NestedReader, type NestedWanted } from './nested/read'
import { goOn } from './stop'

export interface Timings {
  fetch: number
  shape: number
  compose: number
  write: number
}

/** Counts rows per level and the time of each stage, in milliseconds. */
export class RunMeter {
  readonly ms: Timings = { fetch: 0, shape: 0, compose: 0, write: 0 }
  readonly rows: Record<string, number> = {}
  private reading = 0

  /** is called after each part of the records */
  heard: () => Promise<void> | void = () => {}

  fetch(inner: Fetch): Fetch {
    return async (query, source) => {
      const start = performance.now()
      const rows = await inner(query, source)
      this.ms.fetch += performance.now() - start
      this.reading += performance.now() - start
      return rows
    }
  }

  /**
   * Chunks of records, with the time that is not fetching counted as shaping. `wanted` says for which layouts nested reports are read with
   * them.
   */
  async *chunks(run: ReadyRun, plan: Plan, fetch: Fetch, options: ReadOptions, wanted?: NestedWanted): AsyncGenerator<Chunk> {
    const timed = this.fetch(fetch)
    const nested = wanted && run.inside && new NestedReader(run, run.inside, wanted)
    const source = readRecords(plan, timed, { ...options, ...(nested ? { more: records => nested.read(records, timed) } : {}) })
    for (;;) {
      goOn()
      const start = performance.now()
      this.reading = 0
      const next = await source.next()
      this.ms.shape += performance.now() - start - this.reading
      if (next.done) return
      run.report.tree.levels.forEach(
        level => (this.rows[level.name] = (this.rows[level.name] ?? 0) + next.value.records.levels[level.index]!.count),
      )
      await this.heard()
      yield next.value
    }
  }
}
