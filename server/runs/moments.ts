import type { Context } from '../access/context'
import type { Snapshot } from '../sources/contract'
import type { Sources } from '../sources/sources'
import type { RunInput } from './input'
import { runsIn } from './tasks'

/** One moment of each of some sources, through which several runs read (rule 39): what is posted meanwhile none of them sees. */
export class Moments {
  private constructor(private readonly snapshots: Map<string, Snapshot>) {}

  /** Opens a moment of each source, as whoever asks sees it. @throws SourceError where one is away */
  static async open(context: Context, sources: Sources, ids: readonly string[]): Promise<Moments> {
    const moments = new Moments(new Map())
    try {
      await moments.also(context, sources, ids)
    } catch (error) {
      moments.close()
      throw error
    }
    return moments
  }

  /** Opens moments of more sources, where they are not open yet. @throws SourceError where one is away */
  async also(context: Context, sources: Sources, ids: readonly string[]): Promise<void> {
    for (const id of new Set(ids)) if (!this.snapshots.has(id)) this.snapshots.set(id, await sources.snapshot(context, id))
  }

  /** When they were opened, the first of them: milliseconds since 1970. */
  get at(): number {
    return Math.min(...[...this.snapshots.values()].map(each => each.moment))
  }

  /** Those that a run reads. */
  of(input: RunInput): Map<string, Snapshot> {
    return new Map(runsIn(input).map(({ source }) => [source, this.snapshots.get(source)!]))
  }

  close(): void {
    for (const each of this.snapshots.values()) each.close()
  }
}
