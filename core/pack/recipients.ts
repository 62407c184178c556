import { array, boolean, lazy, mixed, number, object, string } from 'yup'
import type { LetterTexts } from '../compose/letter'
import { name, plain, words } from '../definition/checks'

/** Files that are made of all reports of a pack together; `rest` are the documents for which there was no address. */
export const packFiles = ['pdf', 'xlsx', 'zip', 'rest'] as const
export type PackFile = (typeof packFiles)[number]

/** How sheets are printed, as RFC 8011 (section 5.2.8) calls it. */
export const printSides = ['one-sided', 'two-sided-long-edge', 'two-sided-short-edge'] as const
export type PrintSides = (typeof printSides)[number]

/** Whom a pack goes to, and how. */
export type Recipient =
  /**
   * letters to people (`person …`), teams (`team …`) and addresses, each with the files; `pages` are those of all reports, in the letter
   * itself
   */
  | { is: 'mail'; id: string; to: string[]; subject: string; body: string; files: PackFile[]; replyTo?: string; pages?: boolean }
  /** each document of a report to the address in its record, in its language; `pages` shows it in the letter itself too */
  | ({
      is: 'records'
      id: string
      /** the report's name in the pack */
      report: string
      /** a formula on its first level, such as a field */
      address: string
      inLanguages: ({ language: string } & LetterTexts)[]
      replyTo?: string
      pages?: boolean
    } & LetterTexts)
  /** files of a folder on the server, by the pattern of names; what is there stays, unless it is told to be replaced */
  | { is: 'folder'; id: string; folder: string; files: PackFile[]; replace: boolean }
  /** sheets of paper, on a printer that the administrator has named */
  | { is: 'print'; id: string; printer: string; files: PackFile[]; copies: number; sides: PrintSides; tray?: string }

const files = array(
  mixed()
    .oneOf([...packFiles])
    .required(),
).required()
const texts = { subject: words, body: words, name: words }

/** Checks a recipient of a pack. */
export const recipientShape = lazy((value: unknown) => {
  switch ((value as Partial<Recipient> | null)?.is) {
    case 'mail':
      return object({
        is: name,
        id: name,
        to: array(name).required().min(1),
        subject: words,
        body: words,
        files,
        replyTo: plain,
        pages: boolean().strict(),
      }).noUnknown()
    case 'records':
      return object({
        is: name,
        id: name,
        report: name,
        address: plain.required().max(4000),
        ...texts,
        inLanguages: array(object({ language: name.max(35), ...texts }).noUnknown())
          .required()
          .max(50),
        replyTo: plain,
        pages: boolean().strict(),
      }).noUnknown()
    case 'print':
      return object({
        is: name,
        id: name,
        printer: name,
        files,
        copies: number().strict().integer().required().min(1).max(99),
        sides: string()
          .oneOf([...printSides])
          .required(),
        tray: plain.max(100),
      }).noUnknown()
    default:
      return object({
        is: mixed().oneOf(['mail', 'records', 'folder', 'print']).required(),
        id: name,
        folder: name,
        files,
        replace: boolean().strict().required(),
      }).noUnknown()
  }
})
