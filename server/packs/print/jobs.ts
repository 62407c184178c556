import { join } from 'node:path'
import { machineSentence } from '../../failures'
import type { RunFolder } from '../../runs/runFolder'
import type { DeliveryRow, DeliveryRows, NewDelivery } from '../../store/deliveryRows'
import type { PackRunRow } from '../../store/packRunRows'
import type { PrintContent } from '../toSend'
import { jobState, PrintError, printJob, type Printer } from './ipp'

/** How often printers are asked how far their jobs are, in milliseconds. */
const look = 3000

/** What is printed: handed to its printer, and followed there until it is out. */
export class PrintJobs {
  private timer: NodeJS.Timeout | undefined
  private closed = false

  constructor(
    private readonly rows: DeliveryRows,
    private readonly folder: RunFolder,
    private readonly printerOf: (id: string) => Promise<Printer | undefined>,
    /** there is news of a run of a pack */
    private readonly tell: () => void,
  ) {}

  /** Hands a file to a printer; how far it is there is followed from then on. */
  async print(run: PackRunRow, row: DeliveryRow): Promise<void> {
    const content = row.content as PrintContent
    if (!(await this.rows.mark(row.id, ['ready'], { state: 'sending' }))) return
    const printer = await this.printerOf(content.printer)
    if (!printer)
      return void (await this.rows.mark(row.id, ['sending'], {
        state: 'refused',
        said: 'This printer is not in the settings any more; choose another in the pack.',
      }))
    try {
      const { name, file } = content.file
      const job = await printJob(printer, { ...content, name, file: join(this.folder.of(run.id), file) })
      await this.rows.mark(row.id, ['sending'], { content: { ...content, job } satisfies PrintContent, said: `Job ${job} waits.` })
      this.follow(0)
    } catch (error) {
      const uncertain = error instanceof PrintError && error.uncertain
      const said = machineSentence(error) ?? (error as Error).message
      await this.rows.mark(row.id, ['sending'], { state: uncertain ? 'uncertain' : 'refused', said })
    }
  }

  /** Asks printers how far their jobs are, as long as there are any. */
  follow(wait = look): void {
    if (this.closed) return
    clearTimeout(this.timer)
    this.timer = setTimeout(() => {
      this.jobs()
        .then(left => left && this.follow())
        .catch(() => this.follow())
    }, wait)
    this.timer.unref()
  }

  /** How many jobs are not printed yet. */
  private async jobs(): Promise<number> {
    const open = (await this.rows.printing()).filter(each => (each.content as PrintContent).job !== undefined)
    let left = 0
    for (const row of open) {
      const { printer: id, job } = row.content as PrintContent
      const printer = await this.printerOf(id)
      const found = printer
        ? await jobState(printer, job!).catch((error: Error) => error)
        : new Error('This printer is not in the settings any more.')
      const change = found instanceof Error ? { said: found.message } : jobChange(job!, found)
      if (!('state' in change)) left++
      if (change.said !== row.said || 'state' in change) {
        await this.rows.mark(row.id, ['sending'], change)
        this.tell()
      }
    }
    return left
  }

  close(): void {
    this.closed = true
    clearTimeout(this.timer)
  }
}

/** What a job's state says of a delivery. */
function jobChange(job: number, { state, reasons }: { state: string; reasons: string[] }): Partial<NewDelivery> & { said: string } {
  const why = reasons.length ? ` (${reasons.join(', ')})` : ''
  if (state === 'completed') return { state: 'sent', said: `Job ${job} is printed.` }
  if (state === 'canceled' || state === 'aborted') return { state: 'refused', said: `Job ${job} was ${state} at the printer${why}.` }
  return { said: `Job ${job} waits at the printer${why}.` }
}
