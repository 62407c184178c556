import MailComposer from 'nodemailer/lib/mail-composer/index.js'
import SMTPConnection from 'nodemailer/lib/smtp-connection/index.js'

/** Where letters go: a mail server, and who they are from. */
export interface MailServer {
  host: string
  port: number
  /** how the connection is kept secret; on this machine it need not be */
  security: 'none' | 'starttls' | 'tls'
  user?: string
  password?: string
  /** sender, as `Accounts <accounts@company.example>` */
  from: string
}

export interface Letter {
  to: string[]
  subject: string
  body: string
  /** the same as HTML, with pages in it */
  html?: string
  replyTo?: string
  messageId: string
  /** as a tag such as pt-PT (RFC 3282) */
  language?: string
  attachments: { name: string; path: string }[]
}

/**
 * What came of a letter. `again`: nothing of it was taken, and it may be tried again; `uncertain`: the connection ended after the letter
 * was sent and before it was answered, so that it may have been taken.
 */
export type Sent = { is: 'sent' | 'refused' | 'again' | 'uncertain'; said: string }

/** Longest that a server is waited for, in milliseconds. */
const patience = { connectionTimeout: 15_000, greetingTimeout: 15_000, socketTimeout: 60_000 }

type Fault = Error & { responseCode?: number; response?: string; code?: string }
const saidBy = (error: Fault): string => (error.response ?? error.message).replace(/\s+/g, ' ').trim().slice(0, 500)

/** A connection to a mail server, over which letters go one after another (RFC 5321). */
export class MailLine {
  private connection: SMTPConnection | undefined

  constructor(private readonly server: MailServer) {}

  /** @throws Fault where the server cannot be reached, or does not let us in */
  private async open(): Promise<SMTPConnection> {
    if (this.connection) return this.connection
    const { host, port, security, user, password } = this.server
    const connection = new SMTPConnection({
      host,
      port,
      secure: security === 'tls',
      ignoreTLS: security === 'none',
      requireTLS: security === 'starttls',
      ...patience,
    })
    try {
      await new Promise<void>((resolve, reject) => {
        connection.once('error', reject)
        connection.once('end', () => reject(new Error('The server closed the connection.')))
        connection.connect(error => (error ? reject(error) : resolve()))
      })
      if (user)
        await new Promise<void>((resolve, reject) =>
          connection.login({ credentials: { user, pass: password ?? '' } } as never, error => (error ? reject(error) : resolve())),
        )
    } catch (error) {
      connection.close()
      throw error
    }
    const gone = () => {
      if (this.connection === connection) this.connection = undefined
    }
    connection.on('error', gone)
    connection.once('end', gone)
    return (this.connection = connection)
  }

  /** Does the server let us in? Its own words where it does not. */
  async greet(): Promise<{ fine: boolean; said: string }> {
    try {
      await this.open()
      return { fine: true, said: 'The server lets Estante in.' }
    } catch (error) {
      return { fine: false, said: saidBy(error as Fault) }
    }
  }

  async send(letter: Letter): Promise<Sent> {
    let connection: SMTPConnection
    try {
      connection = await this.open()
    } catch (error) {
      const { responseCode = 0 } = error as Fault
      // a server that does not take our word is not asked again and again
      return { is: responseCode >= 500 ? 'refused' : 'again', said: saidBy(error as Fault) }
    }
    const composed = new MailComposer({
      from: this.server.from,
      to: letter.to,
      subject: letter.subject,
      text: letter.body,
      ...(letter.html === undefined ? {} : { html: letter.html }),
      messageId: letter.messageId,
      attachments: letter.attachments.map(({ name, path }) => ({ filename: name, path })),
      ...(letter.language === undefined ? {} : { headers: { 'Content-Language': letter.language } }),
      ...(letter.replyTo ? { replyTo: letter.replyTo } : {}),
      disableUrlAccess: true,
    }).compile()
    const envelope = composed.getEnvelope()
    const stream = composed.createReadStream()
    let begun = false
    stream.once('data', () => (begun = true))
    stream.pause()
    return new Promise<Sent>(resolve => {
      // the connection tells its end by itself where it ends between a letter and its answer
      const ended = () => settle({ is: begun ? 'uncertain' : 'again', said: 'The server closed the connection before it answered.' })
      const settle = (sent: Sent) => {
        connection.off('end', ended)
        resolve(sent)
      }
      connection.once('end', ended)
      connection.send({ from: envelope.from || false, to: envelope.to } as never, stream, (error: Fault | null, info) => {
        if (!error) return settle({ is: 'sent', said: String(info.response ?? '').slice(0, 500) })
        const { responseCode = 0 } = error
        if (responseCode >= 500) return settle({ is: 'refused', said: saidBy(error) })
        if (responseCode >= 400) return settle({ is: 'again', said: saidBy(error) })
        this.close()
        settle({ is: begun ? 'uncertain' : 'again', said: saidBy(error) })
      })
    })
  }

  close(): void {
    const { connection } = this
    this.connection = undefined
    connection?.close()
  }
}
