import type { Output } from '../../core/api/outputs'
import type { RunState } from '../../core/api/runs'
import type { Context } from '../access/context'
import type { RunInput } from './input'
import { type KeptRead, rowsFile } from './keptRows'
import type { KeptPages } from './spool'
import type { RunResult } from './tasks'

/** A run as it is worked at, or was read again: its pages and rows are in files. */
export interface RunRecord {
  id: string
  /** who runs it */
  person: string
  context: Context
  /** id of the report that is run */
  report: string
  input: RunInput
  state: RunState
  /** another Estante works at it: what is known of it is what is written down */
  elsewhere?: { pages: number }
  /** where each page begins in its file; one more than there are pages */
  places: number[]
  /** the JSON text of the first page, as long as no page is in the file */
  early?: string
  outline: { page: number; label: string }[]
  /** records of its first level that were read so far */
  read: number
  startedAt: string
  result?: RunResult
  sentences?: string[]
  stop: AbortController
  file: string
  /** how many read its files just now, and whether they go when the last of them is done */
  readers: number
  gone: boolean
  pinned: boolean
  /** files made of it, or being made: they go on when whoever asked for them leaves */
  files: Map<string, RunFile>
  /** resolves when it is written down, and so outlives the program */
  kept: Promise<void>
  /** resolves when it has ended, however it did */
  over: Promise<void>
  ended: () => void
  /** resolves whenever there is news */
  news: Promise<void>
  tell: () => void
}

/** A file of a run: its key says what was asked for. */
export interface RunFile {
  format: FileOutput['format']
  path: string
  state: 'making' | 'done' | 'failed'
  made: Promise<void>
}

/** What a run can be written as: its kept pages, or the rows read again with the same answers. */
export type FileOutput = Exclude<Output, { format: 'svg' }>

type Told = Pick<RunRecord, 'id' | 'context' | 'report' | 'input' | 'state' | 'startedAt' | 'file'> & Partial<RunRecord>

export function newRecord(told: Told): RunRecord {
  let ended = () => {}
  const over = new Promise<void>(resolve => (ended = resolve))
  const run: RunRecord = {
    person: told.context.person,
    files: new Map(),
    places: [0],
    outline: [],
    read: 0,
    stop: new AbortController(),
    readers: 0,
    gone: false,
    pinned: false,
    kept: Promise.resolve(),
    over,
    ended,
    news: Promise.resolve(),
    tell: () => {},
    ...told,
  }
  renew(run)
  return run
}

/** Whoever waits hears that there is news, and waits for the next. */
export function renew(run: RunRecord): void {
  const { tell } = run
  run.news = new Promise(resolve => (run.tell = resolve))
  tell()
}

export const isOver = ({ state }: Pick<RunRecord, 'state'>): boolean => state !== 'waiting' && state !== 'running'

/** The rows that a run has kept. */
export const keptOf = (run: RunRecord): KeptRead => ({ file: rowsFile(run.file), places: run.result!.kept!.rows })

export const pagesOf = (run: RunRecord): KeptPages => ({ pages: run.file, places: run.places })
