import type { PackFile, PrintSides } from '../../core/pack/recipients'
import type { RunRecord } from '../runs/runRecord'
import type { PlannedPack } from './parts'

/** A file that was made of a run of a pack: what it is called, and the name of it in the run's folder. */
export interface MadeFile {
  format: PackFile | 'letter'
  name: string
  file: string
}

/** Pages as HTML in a file of the run's folder, or the sentence why a letter cannot carry them. */
export type LetterPages = { file: string } | { tooLarge: string }

/** Letters to the records of a report, made for a recipient: a folder of them within the run's. */
export interface MadeLetters {
  recipient: string
  folder: string
}

/** What is to be sent of a run of a pack. */
export interface ToSend extends PlannedPack {
  made: readonly RunRecord[]
  files: readonly MadeFile[]
  letters: readonly MadeLetters[]
  /** the pages of all reports as they stand in a letter, where that is wanted */
  pages?: LetterPages
}

/** What a letter is made of, beside what its columns say. */
export interface MailContent {
  subject: string
  body: string
  /** the language in which it is written, where it is not the pack's */
  language?: string
  replyTo?: string
  /** the file with the HTML of its pages, in the run's folder */
  html?: string
  files: MadeFile[]
}

export interface FileContent {
  folder: string
  replace: boolean
  file: MadeFile
}

export interface PrintContent {
  printer: string
  file: MadeFile
  copies: number
  sides: PrintSides
  tray?: string
  /** the number that the printer has given it */
  job?: number
}
