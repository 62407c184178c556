import { mkdirSync } from 'node:fs'
import { readdir, readFile, rename, rm, writeFile } from 'node:fs/promises'
import type { AddressInfo } from 'node:net'
import { join } from 'node:path'
import { randomUUID } from 'node:crypto'
import { type ParsedMail, simpleParser } from 'mailparser'
import { SMTPServer } from 'smtp-server'

/** A letter in the outbox, as lists show it. */
export interface OutboxLetter {
  id: string
  /** ISO 8601 */
  at: string
  from: string
  to: string[]
  subject: string
  messageId: string
  files: string[]
}

interface Envelope {
  at: string
  from: string
  to: string[]
}

/** Letters that are kept at most; the oldest go first. */
const most = 10_000
const slack = 500
/** by its moment, to the millisecond, and a tail that tells programs on one folder apart */
const named = /^(\d{14,17}-[0-9a-f]{8})\.eml$/

/**
 * A stand-in for a mail server, which ships with the program: it takes letters by SMTP (RFC 5321) on this machine only, sends them to
 * nobody, and shows them as they would arrive.
 */
export class Outbox {
  private server: SMTPServer | undefined
  private opening: Promise<number> | undefined
  private latest = 0
  private count: number | undefined
  /** of letters, what was said of them: read once */
  private readonly known = new Map<string, OutboxLetter>()

  constructor(
    private readonly folder: string,
    /** refuses an address or a letter, for tests: the answer to the client */
    private readonly refusal: (at: 'recipient' | 'letter', about: string) => Error | undefined = () => undefined,
  ) {}

  /** The port on which it takes letters. */
  port(): Promise<number> {
    return (this.opening ??= this.open())
  }

  private async open(): Promise<number> {
    mkdirSync(this.folder, { recursive: true })
    const server = new SMTPServer({
      name: 'outbox.estante.local',
      banner: 'The outbox of Estante: letters go to nobody',
      authOptional: true,
      disabledCommands: ['AUTH', 'STARTTLS'],
      logger: false,
      size: 50_000_000,
      onRcptTo: ({ address }, _, done) => done(this.refusal('recipient', address)),
      onData: (stream, session, done) => {
        const parts: Buffer[] = []
        stream.on('data', (part: Buffer) => parts.push(part))
        stream.on('end', () => {
          if (stream.sizeExceeded) return done(Object.assign(new Error('The letter is larger than 50 MB.'), { responseCode: 552 }))
          const { mailFrom, rcptTo } = session.envelope
          const envelope: Envelope = {
            at: new Date().toISOString(),
            from: mailFrom ? mailFrom.address : '',
            to: rcptTo.map(each => each.address),
          }
          this.keep(envelope, Buffer.concat(parts)).then(
            id => done(this.refusal('letter', id)),
            (error: Error) => done(error),
          )
        })
      },
    })
    // a client that breaks off is its own affair
    server.on('error', () => {})
    await new Promise<void>((resolve, reject) => {
      server.server.once('error', reject)
      server.listen(0, '127.0.0.1', () => resolve())
    })
    this.server = server
    return (server.server.address() as AddressInfo).port
  }

  /** Letters lie whole or not at all. */
  private async keep(envelope: Envelope, letter: Buffer): Promise<string> {
    // of two letters in one millisecond the later one has the later name
    this.latest = Math.max(Date.parse(envelope.at), this.latest + 1)
    const id = `${new Date(this.latest).toISOString().replace(/\D/g, '')}-${randomUUID().slice(0, 8)}`
    const file = join(this.folder, `${id}.eml`)
    await writeFile(join(this.folder, `${id}.json`), JSON.stringify(envelope))
    await writeFile(`${file}.part`, letter)
    await rename(`${file}.part`, file)
    // looking through the folder takes a while: not for each letter
    this.count = (this.count ?? (await this.ids()).length - 1) + 1
    if (this.count > most + slack) await this.clear()
    return id
  }

  private async clear(): Promise<void> {
    const ids = await this.ids()
    this.count = Math.min(ids.length, most)
    for (const id of ids.slice(most)) {
      this.known.delete(id)
      await Promise.all(['eml', 'json'].map(ending => rm(join(this.folder, `${id}.${ending}`), { force: true })))
    }
  }

  private async ids(): Promise<string[]> {
    const names = await readdir(this.folder).catch(() => [])
    return names
      .flatMap(name => named.exec(name)?.[1] ?? [])
      .sort()
      .reverse()
  }

  /** How many letters there are, and some of them, the newest first. */
  async list(from: number, count: number): Promise<{ all: number; letters: OutboxLetter[] }> {
    const ids = await this.ids()
    const letters: OutboxLetter[] = []
    for (const id of ids.slice(from, from + count)) letters.push(this.known.get(id) ?? (await this.about(id)))
    return { all: ids.length, letters }
  }

  private async about(id: string): Promise<OutboxLetter> {
    const { envelope, letter } = (await this.letter(id))!
    const found: OutboxLetter = {
      id,
      ...envelope,
      subject: letter.subject ?? '',
      messageId: letter.messageId ?? '',
      files: letter.attachments.map(each => each.filename ?? ''),
    }
    this.known.set(id, found)
    return found
  }

  /** A letter as whoever gets it reads it; nothing where it is not there. */
  async letter(id: string): Promise<{ envelope: Envelope; letter: ParsedMail; source: Buffer } | undefined> {
    if (!named.test(`${id}.eml`)) return undefined
    try {
      const [source, envelope] = [await readFile(join(this.folder, `${id}.eml`)), await readFile(join(this.folder, `${id}.json`), 'utf8')]
      return { envelope: JSON.parse(envelope) as Envelope, letter: await simpleParser(source), source }
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === 'ENOENT') return undefined
      throw error
    }
  }

  async close(): Promise<void> {
    await this.opening?.catch(() => {})
    const { server } = this
    this.server = undefined
    this.opening = undefined
    if (server) await new Promise<void>(resolve => server.close(() => resolve()))
  }
}
