import { createHash } from 'node:crypto'
import { mkdirSync, readFileSync } from 'node:fs'
import { rename, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import type { Page } from '../../core/compose/page'

interface Miniature {
  version: number
  seen: string
  page: Page | null
}

/** How long one waits for people's own work, in milliseconds. */
const mostWaiting = 10_000

/**
 * First pages of reports as they stand on the shelf. They are company data, kept in the data folder apart from the definitions: the one of
 * the last time is shown at once, and made anew behind it.
 */
export class Miniatures {
  private readonly made = new Map<string, Promise<Page | null>>()

  /** they are made one after another */
  private last: Promise<unknown> = Promise.resolve()

  /** `busy` tells whether somebody's own work is being done: that goes first, for a while. */
  constructor(
    private readonly folder: string,
    private readonly busy: () => boolean = () => false,
  ) {
    mkdirSync(folder, { recursive: true })
  }

  /** The page of a version, by what is seen of the sources; `make` works it out, once for as long as the server runs. */
  async page(report: string, version: number, seen: string, make: () => Promise<Page | null>): Promise<Page | null> {
    const key = `${report} ${version} ${seen}`
    let made = this.made.get(key)
    const kept = made ? undefined : this.kept(report, version, seen)
    if (!made) {
      // what is shown at once waits for nobody; its successor waits until whoever looks has seen it
      made = (kept ? wait(1500) : Promise.resolve()).then(() => this.inTurn(make))
      this.made.set(key, made)
      made.then(
        page => this.keep(report, { version, seen, page }).catch(() => {}),
        () => this.made.delete(key),
      )
    }
    return kept ? kept.page : made
  }

  private inTurn(make: () => Promise<Page | null>): Promise<Page | null> {
    const mine = this.last.then(async () => {
      for (let waited = 0; this.busy() && waited < mostWaiting; waited += 100) await wait(100)
      return make()
    })
    this.last = mine.catch(() => {})
    return mine
  }

  private file(report: string, seen: string): string {
    const own = seen === '' ? '' : `.${createHash('sha256').update(seen).digest('hex').slice(0, 20)}`
    return join(this.folder, `${report.replace(/[^\w-]/g, '')}${own}.json`)
  }

  private kept(report: string, version: number, seen: string): Miniature | undefined {
    try {
      const found = JSON.parse(readFileSync(this.file(report, seen), 'utf8')) as Miniature
      return found.version === version ? found : undefined
    } catch {
      return undefined
    }
  }

  private async keep(report: string, miniature: Miniature): Promise<void> {
    const file = this.file(report, miniature.seen)
    await writeFile(`${file}.new`, JSON.stringify(miniature))
    await rename(`${file}.new`, file)
  }
}
