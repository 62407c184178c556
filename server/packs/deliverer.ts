import { createHash, randomUUID } from 'node:crypto'
import { copyFile, mkdir, rename, rm, stat } from 'node:fs/promises'
import { join, resolve, sep } from 'node:path'
import type { PackFile, Recipient } from '../../core/pack/definition'
import { printedText } from '../../core/pack/texts'
import { FormulaError } from '../../core/formula/syntax'
import type { Context } from '../access/context'
import { machineSentence } from '../failures'
import { RunError } from '../runs/input'
import type { RunFolder } from '../runs/runFolder'
import type { RunRecord } from '../runs/runRecord'
import type { DeliveryRow, NewDelivery, PackRows, PackRunRow } from '../store/packRows'
import { MailLine, type MailServer } from './mail'
import type { PlannedPack } from './parts'

/** A file that was made of a run of a pack: what it is called, and the name of it in the run's folder. */
export interface MadeFile {
  format: PackFile
  name: string
  file: string
}

/** What is to be sent of a run of a pack. */
export interface ToSend extends PlannedPack {
  made: readonly RunRecord[]
  files: readonly MadeFile[]
}

/** Who people are whom a pack goes to. */
export interface Addresses {
  /** mail addresses of a person (`person …`) or of the people of a team (`team …`), each with the name; none where there are none */
  of: (who: string) => Promise<{ name: string; address: string | undefined }[]>
}

/** What a delivery is made of, beside what its columns say. */
interface MailContent {
  subject: string
  body: string
  replyTo?: string
  files: MadeFile[]
}
interface FileContent {
  folder: string
  replace: boolean
  file: MadeFile
}

/** How often a letter that was not taken is tried again, and how long is waited before each, in milliseconds. */
const waits = [1000, 5000, 30_000]
/** as RFC 5321 has it, without the rarities that no mail program takes */
const address = /^[^\s@<>",;:()[\]\\]{1,64}@[^\s@<>",;:()[\]\\]{1,255}$/

/**
 * What goes out of runs of packs. All of it is written down before any of it goes, and the state of each before and after: what was
 * interrupted in between is uncertain, and is not sent again without somebody's word.
 */
export class Deliverer {
  constructor(
    private readonly rows: PackRows,
    private readonly folder: RunFolder,
    /** the mail server that letters go to, as it is set now */
    private readonly mailServer: () => Promise<MailServer>,
    private readonly addresses: Addresses,
    /** the folder under which all folders lie that files are delivered to */
    private readonly folders: string,
  ) {}

  /** Writes down all that is to go. @throws RunError where a text or a folder cannot be used */
  async prepare(_: Context, run: PackRunRow, send: ToSend): Promise<void> {
    const rows: Omit<NewDelivery, 'place'>[] = []
    for (const recipient of run.definition.to) rows.push(...(await this.of(run, recipient, send)))
    await this.rows.prepare(rows.map((row, place) => ({ ...row, place })))
  }

  private async of(run: PackRunRow, recipient: Recipient, send: ToSend): Promise<Omit<NewDelivery, 'place'>[]> {
    const { values, around, files } = send
    const text = (said: string) => {
      try {
        return printedText(said, run.definition.parameters, values, around)
      } catch (error) {
        if (error instanceof FormulaError) throw new RunError([`A text of what is sent cannot be printed: ${error.message}`])
        throw error
      }
    }
    const row = (about: string, to: string[], key: string): Omit<NewDelivery, 'place' | 'kind' | 'content'> => ({
      id: randomUUID(),
      packRunId: run.id,
      recipient: recipient.id,
      to,
      about,
      state: 'ready',
      messageId: this.messageId(run, recipient.id, key),
    })
    switch (recipient.is) {
      case 'mail': {
        const [subject, body] = [text(recipient.subject), text(recipient.body)]
        const attached = files.filter(each => recipient.files.includes(each.format))
        const content: MailContent = { subject, body, files: attached, ...(recipient.replyTo ? { replyTo: recipient.replyTo } : {}) }
        const found = new Map<string, Omit<NewDelivery, 'place'>>()
        for (const who of recipient.to)
          for (const each of await this.peopleOf(who)) {
            const to = each.address ?? each.name
            if (found.has(to.toLowerCase())) continue
            const own = { ...row(subject, [to], to.toLowerCase()), kind: 'mail' as const, content }
            found.set(
              to.toLowerCase(),
              each.address !== undefined && address.test(each.address)
                ? own
                : {
                    ...own,
                    state: 'unaddressed',
                    said: each.address === undefined ? 'There is no mail address for this person.' : 'This is no mail address.',
                  },
            )
          }
        return [...found.values()]
      }
      case 'folder': {
        const said = text(recipient.folder)
        const to = this.folderOf(said)
        return files
          .filter(each => recipient.files.includes(each.format))
          .map(file => ({
            ...row(file.name, [join(said.trim(), file.name)], file.name),
            kind: 'file',
            content: { folder: to, replace: recipient.replace, file } satisfies FileContent,
          }))
      }
    }
  }

  private async peopleOf(who: string): Promise<{ name: string; address: string | undefined }[]> {
    return /^(person|team) /.test(who) ? this.addresses.of(who) : [{ name: who, address: who }]
  }

  /** A folder for files: under the one that the administrator has named, never outside of it. */
  private folderOf(said: string): string {
    const root = resolve(this.folders)
    const to = resolve(root, said.trim() || '.')
    if (to !== root && !to.startsWith(root + sep))
      throw new RunError([`Files go to folders under “${root}” only; “${said}” is outside of it, name another.`])
    return to
  }

  /** The same for the same pack, occasion and recipient: whoever gets a letter twice can tell (RFC 5322, section 3.6.4). */
  private messageId({ id, packId, occasion }: PackRunRow, recipient: string, key: string): string {
    const hash = createHash('sha256')
      .update(JSON.stringify([packId, occasion ?? id, recipient, key]))
      .digest('hex')
    return `<${hash.slice(0, 40)}@estante.local>`
  }

  /** Sends what is ready. What is refused is written down with the server's words; the rest goes on. */
  async send(run: PackRunRow, signal: AbortSignal, told: (done: number, of: number) => void): Promise<void> {
    await this.rows.doubt(run.id)
    const all = await this.rows.deliveries(run.id)
    const ready = all.filter(each => each.state === 'ready')
    let line: MailLine | undefined
    let done = 0
    told(done, ready.length)
    try {
      for (const each of ready) {
        if (signal.aborted) throw signal.reason as Error
        if (each.kind === 'mail') await this.post((line ??= new MailLine(await this.mailServer())), run, each, signal)
        else if (each.kind === 'file') await this.put(run, each)
        told(++done, ready.length)
      }
    } finally {
      line?.close()
    }
  }

  private async post(line: MailLine, run: PackRunRow, row: DeliveryRow, signal: AbortSignal): Promise<void> {
    const content = row.content as MailContent
    for (let attempt = 0; ; attempt++) {
      if (!(await this.rows.mark(row.id, ['ready'], { state: 'sending', attempts: attempt + 1 }))) return
      const sent = await line.send({
        to: (row.to as string[])[0]!,
        subject: content.subject,
        body: content.body,
        messageId: row.messageId,
        attachments: content.files.map(({ name, file }) => ({ name, path: join(this.folder.of(run.id), file) })),
        ...(content.replyTo ? { replyTo: content.replyTo } : {}),
      })
      if (sent.is !== 'again') return void (await this.rows.mark(row.id, ['sending'], { state: sent.is, said: sent.said }))
      const wait = waits[attempt]
      if (wait === undefined) return void (await this.rows.mark(row.id, ['sending'], { state: 'refused', said: sent.said }))
      await this.rows.mark(row.id, ['sending'], { state: 'ready', said: sent.said })
      await pause(wait, signal)
    }
  }

  /** Puts a file where it goes: whole, or not at all. */
  private async put(run: PackRunRow, row: DeliveryRow): Promise<void> {
    const { folder, replace, file } = row.content as FileContent
    const to = join(folder, file.name)
    const beside = `${to}.${row.id.slice(0, 8)}.part`
    if (!(await this.rows.mark(row.id, ['ready'], { state: 'sending' }))) return
    try {
      await mkdir(folder, { recursive: true })
      const there = await stat(to).catch(() => undefined)
      if (there && !replace) {
        await this.rows.mark(row.id, ['sending'], {
          state: 'refused',
          said: `There is a file “${file.name}” in the folder already; it was left as it is.`,
        })
        return
      }
      await copyFile(join(this.folder.of(run.id), file.file), beside)
      await rename(beside, to)
      await this.rows.mark(row.id, ['sending'], { state: 'sent', said: to })
    } catch (error) {
      await rm(beside, { force: true }).catch(() => {})
      await this.rows.mark(row.id, ['sending'], { state: 'refused', said: machineSentence(error) ?? (error as Error).message })
    }
  }

  /** Somebody's word on one that is uncertain, was refused or has no address: it is sent once more, or let be. False where it is none */
  decide(id: string, again: boolean, to?: string): Promise<boolean> {
    return this.rows.mark(id, ['uncertain', 'refused', 'unaddressed'], {
      state: again ? 'ready' : 'dropped',
      ...(to === undefined ? {} : { to: [to] }),
      said: null,
    })
  }

  /** Nothing of a run that was dropped goes out. */
  async drop(packRunId: string): Promise<void> {
    for (const each of await this.rows.deliveries(packRunId)) await this.rows.mark(each.id, ['ready'], { state: 'dropped' })
  }
}

function pause(milliseconds: number, signal: AbortSignal): Promise<void> {
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
