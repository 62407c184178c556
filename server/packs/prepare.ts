import { createHash, randomUUID } from 'node:crypto'
import { createReadStream } from 'node:fs'
import { stat } from 'node:fs/promises'
import { createInterface } from 'node:readline'
import { join, resolve, sep } from 'node:path'
import { isMailAddress } from '../../core/pack/mailAddress'
import { printedText } from '../../core/pack/texts'
import type { Recipient } from '../../core/pack/recipients'
import { FormulaError } from '../../core/formula/syntax'
import { RunError } from '../runs/input'
import { letterList, type MadeLetter } from '../runs/letters'
import type { RunFolder } from '../runs/runFolder'
import type { NewDelivery } from '../store/deliveryRows'
import type { PackRunRow } from '../store/packRunRows'
import { tooLarge } from './letterPages'
import type { FileContent, MailContent, PrintContent, ToSend } from './toSend'

type Row = Omit<NewDelivery, 'place'>
type Of<K extends Recipient['is']> = Extract<Recipient, { is: K }>

/** Who people are whom a pack goes to. */
export interface Addresses {
  /** mail addresses of a person (`person …`) or of the people of a team (`team …`), each with the name; none where there are none */
  of: (who: string) => Promise<{ name: string; address: string | undefined }[]>
}

export interface PreparingParts {
  folder: RunFolder
  addresses: Addresses
  /** the folder under which all folders lie that files are delivered to */
  folders: string
  /** what a printer is called; nothing where there is none of the id */
  printer: (id: string) => Promise<string | undefined>
}

/** All that goes out of a run of a pack, recipient by recipient. @throws RunError where a text or a folder cannot be used */
export async function* goesOut(run: PackRunRow, send: ToSend, parts: PreparingParts): AsyncGenerator<Row> {
  for (const recipient of run.definition.to)
    switch (recipient.is) {
      case 'mail':
        yield* letters(run, recipient, send, parts)
        break
      case 'records':
        yield* lettersToRecords(run, recipient, send, parts)
        break
      case 'folder':
        yield* files(run, recipient, send, parts)
        break
      case 'print':
        yield* sheets(run, recipient, send, parts)
    }
}

/** @throws RunError where it cannot be printed */
function textOf(run: PackRunRow, { values, around }: ToSend, said: string): string {
  try {
    return printedText(said, run.definition.parameters, values, around)
  } catch (error) {
    if (error instanceof FormulaError) throw new RunError([`A text of what is sent cannot be printed: ${error.message}`])
    throw error
  }
}

const rowOf = (run: PackRunRow, recipient: Recipient, to: string[], about: string, key: string): Omit<Row, 'kind' | 'content'> => ({
  id: randomUUID(),
  packRunId: run.id,
  recipient: recipient.id,
  to,
  about,
  state: 'ready',
  messageId: messageId(run, recipient.id, key),
})

/** The same for the same pack, occasion and recipient: whoever gets a letter twice can tell (RFC 5322, section 3.6.4). */
function messageId({ id, packId, occasion }: PackRunRow, recipient: string, key: string): string {
  const hash = createHash('sha256')
    .update(JSON.stringify([packId, occasion ?? id, recipient, key]))
    .digest('hex')
  return `<${hash.slice(0, 40)}@estante.local>`
}

async function* letters(run: PackRunRow, recipient: Of<'mail'>, send: ToSend, { addresses }: PreparingParts): AsyncGenerator<Row> {
  const [subject, body] = [textOf(run, send, recipient.subject), textOf(run, send, recipient.body)]
  const attached = send.files.filter(each => each.format !== 'letter' && recipient.files.includes(each.format))
  const pages = recipient.pages ? send.pages : undefined
  const content: MailContent = {
    subject,
    body,
    files: attached,
    ...(recipient.replyTo ? { replyTo: recipient.replyTo } : {}),
    ...(pages && 'file' in pages ? { html: pages.file } : {}),
  }
  const held = pages && 'tooLarge' in pages ? { state: 'refused' as const, said: pages.tooLarge } : {}
  const told = new Set<string>()
  for (const who of recipient.to) {
    const people = /^(person|team) /.test(who) ? await addresses.of(who) : [{ name: who, address: who }]
    for (const { name, address } of people) {
      const to = address ?? name
      if (told.has(to.toLowerCase())) continue
      told.add(to.toLowerCase())
      const own: Row = { ...rowOf(run, recipient, [to], subject, to.toLowerCase()), kind: 'mail', content }
      if (address !== undefined && isMailAddress(address)) yield { ...own, ...held }
      else
        yield {
          ...own,
          state: 'unaddressed',
          said: address === undefined ? 'There is no mail address for this person.' : 'This is no mail address.',
        }
    }
  }
}

async function* lettersToRecords(run: PackRunRow, recipient: Of<'records'>, send: ToSend, { folder }: PreparingParts): AsyncGenerator<Row> {
  const told = new Map<string, number>()
  for (const made of send.letters.filter(each => each.recipient === recipient.id)) {
    const list = createInterface({ input: createReadStream(join(folder.of(run.id), made.folder, letterList)), crlfDelay: Infinity })
    for await (const line of list) {
      const { to, wrong, subject, body, name, language, file, html } = JSON.parse(line) as MadeLetter
      const said = html && tooLarge((await stat(join(folder.of(run.id), made.folder, html))).size)
      const plain = JSON.stringify([to, name])
      const again = told.get(plain) ?? 0
      told.set(plain, again + 1)
      const content: MailContent = {
        subject,
        body,
        language,
        files: [{ format: 'letter', name: `${name}.pdf`, file: join(made.folder, file) }],
        ...(recipient.replyTo ? { replyTo: recipient.replyTo } : {}),
        ...(html && !said ? { html: join(made.folder, html) } : {}),
      }
      // two documents of one name to one address are two letters
      const own: Row = { ...rowOf(run, recipient, to, subject, `${plain} ${again}`), kind: 'mail', content }
      if (to.length) yield said ? { ...own, state: 'refused', said } : own
      else
        yield {
          ...own,
          to: [name],
          state: 'unaddressed',
          said: wrong === undefined ? 'There is no mail address in this record.' : `“${wrong}” is no mail address.`,
        }
    }
  }
}

async function* files(run: PackRunRow, recipient: Of<'folder'>, send: ToSend, { folders }: PreparingParts): AsyncGenerator<Row> {
  const said = textOf(run, send, recipient.folder)
  const to = folderOf(folders, said)
  for (const file of send.files)
    if (file.format !== 'letter' && recipient.files.includes(file.format))
      yield {
        ...rowOf(run, recipient, [join(said.trim(), file.name)], file.name, file.name),
        kind: 'file',
        content: { folder: to, replace: recipient.replace, file } satisfies FileContent,
      }
}

/** A folder for files: under the one that the administrator has named, never outside of it. @throws RunError */
function folderOf(folders: string, said: string): string {
  const root = resolve(folders)
  const to = resolve(root, said.trim() || '.')
  if (to !== root && !to.startsWith(root + sep))
    throw new RunError([`Files go to folders under “${root}” only; “${said}” is outside of it, name another.`])
  return to
}

async function* sheets(run: PackRunRow, recipient: Of<'print'>, send: ToSend, { printer }: PreparingParts): AsyncGenerator<Row> {
  const called = await printer(recipient.printer)
  const { copies, sides, tray } = recipient
  for (const file of send.files)
    if (file.name.endsWith('.pdf') && file.format !== 'letter' && recipient.files.includes(file.format))
      yield {
        ...rowOf(run, recipient, [called ?? recipient.printer], file.name, file.name),
        kind: 'print',
        content: { printer: recipient.printer, file, copies, sides, ...(tray ? { tray } : {}) } satisfies PrintContent,
        ...(called === undefined
          ? { state: 'unaddressed', said: 'This printer is not in the settings any more; choose another in the pack.' }
          : {}),
      }
}
