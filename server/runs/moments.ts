import type { Context } from '../access/context'
import type { Snapshot } from '../sources/contract'
import type { HeldMoments, Sources } from '../sources/sources'
import type { RunInput } from './input'
import { runsIn } from './tasks'

/**
 * One moment of each of some sources, through which several runs read (rule 39): what is posted meanwhile none of them sees. What is read
 * beside the runs for whoever opened them (`context.within`), such as choices and tables of other sources, is of the same moments.
 */
export class Moments implements HeldMoments {
  private readonly snapshots = new Map<string, Snapshot>()
  private readonly opening = new Map<string, Promise<Snapshot>>()
  private closed = false

  private constructor(
    private readonly context: Context,
    private readonly sources: Sources,
  ) {
    if (context.within !== undefined) sources.hold(context.within, this)
  }

  /** Opens a moment of each source, as whoever asks sees it. @throws SourceError where one is away */
  static async open(context: Context, sources: Sources, ids: readonly string[]): Promise<Moments> {
    const moments = new Moments(context, sources)
    try {
      await moments.also(ids)
    } catch (error) {
      moments.close()
      throw error
    }
    return moments
  }

  /** Opens moments of more sources, where they are not open yet. @throws SourceError where one is away */
  async also(ids: readonly string[]): Promise<void> {
    for (const id of new Set(ids)) await this.one(id)
  }

  async at(context: Context, id: string): Promise<Snapshot | undefined> {
    const [asked, own] = await Promise.all([this.sources.sight(context, id), this.sources.sight(this.context, id)])
    return this.closed || asked.key !== own.key ? undefined : this.one(id)
  }

  private one(id: string): Promise<Snapshot> {
    let opening = this.opening.get(id)
    if (!opening) {
      opening = this.sources.snapshot(this.context, id).then(snapshot => {
        // whoever wanted it is gone
        if (this.closed) snapshot.close()
        else this.snapshots.set(id, snapshot)
        return snapshot
      })
      this.opening.set(id, opening)
      // a source that was away is asked again by the next who needs it
      opening.catch(() => this.opening.delete(id))
    }
    return opening
  }

  /** When they were opened, the first of them: milliseconds since 1970. */
  get opened(): number {
    return Math.min(...[...this.snapshots.values()].map(each => each.moment))
  }

  /** Those that a run reads. */
  of(input: RunInput): Map<string, Snapshot> {
    return new Map(runsIn(input).map(({ source }) => [source, this.snapshots.get(source)!]))
  }

  close(): void {
    this.closed = true
    if (this.context.within !== undefined) this.sources.letGo(this.context.within)
    for (const each of this.snapshots.values()) each.close()
  }
}
