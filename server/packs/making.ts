import { existsSync } from 'node:fs'
import { readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { PackProgress, PackTieResult } from '../../core/api/packs'
import type { PackDefinition } from '../../core/pack/definition'
import { type PackFigure, packTies } from '../../core/pack/ties'
import { answerWords } from '../../core/parameter/answers'
import { cleanFileName } from '../../core/parameter/fileName'
import { parseDecimal } from '../../core/value/decimal'
import type { Context } from '../access/context'
import { RunError } from '../runs/input'
import { restFile } from '../runs/letters'
import { Moments } from '../runs/moments'
import type { RunFolder } from '../runs/runFolder'
import { keptOf, pagesOf, type RunRecord } from '../runs/runRecord'
import { runsIn } from '../runs/tasks'
import type { PackRunRow } from '../store/packRunRows'
import { coverOf } from './coverWords'
import { fileNames } from './fileNames'
import { figuresOf, type PackApp, packSources, type PlannedPack, type PlannedPart, planPack } from './parts'
import { joinedPages, tooLarge } from './letterPages'
import type { LetterPages, MadeFile, MadeLetters, ToSend } from './toSend'

/** Reports of a pack that are worked at at a time. */
const atOnce = 2

type Told = (progress: PackProgress) => void

/** What a run of a pack makes: its reports, all of one moment, what ties out, its files, and letters to records. */
export class PackMaking {
  constructor(
    private readonly app: PackApp,
    private readonly folder: RunFolder,
  ) {}

  /**
   * All of it. `began` is told the moment (milliseconds since 1970) and the answers in words, before anything is run.
   * @throws RunError with the sentences of reports that failed, or where nothing has a page
   */
  async make(
    context: Context,
    row: PackRunRow,
    began: (moment: number, asked: string[]) => Promise<unknown>,
    told: Told,
  ): Promise<ToSend & { made: RunRecord[]; ties: PackTieResult[] }> {
    const { definition: pack } = row
    const moments = await Moments.open(context, this.app.sources, await packSources(context, this.app, pack))
    let ties: PackTieResult[]
    let made: RunRecord[]
    let planned: PlannedPack
    try {
      planned = await planPack(context, this.app, pack, row.answers as Record<string, string>)
      const { parts, values } = planned
      await moments.also(parts.flatMap(each => runsIn(each.input).map(({ source }) => source)))
      const asked = pack.parameters.filter(each => !each.hidden).map(each => `${each.label}: ${answerWords(each, values)}`)
      await began(moments.opened, asked)
      told({ doing: 'reading', done: 0, of: parts.length })
      made = await this.runParts(context, row, parts, moments, told)
      ties = await this.tiesOf(context, pack, parts, made, moments)
    } finally {
      moments.close()
    }
    const letters = await this.writeLetters(context, row, planned.parts, made, told)
    told({ doing: 'writing', done: 0, of: wantedFiles(pack).length })
    const files = [...(await this.write(context, row, { ...planned, made, ties, moment: moments.opened }, told)), ...letters.files]
    const pages = pack.to.some(each => each.is === 'mail' && each.pages)
      ? await this.writePages(context, row, planned.parts, made)
      : undefined
    return { ...planned, made, ties, files, letters: letters.made, ...(pages ? { pages } : {}) }
  }

  /** Runs all parts through the same moments, some at a time. @throws RunError with the sentences of those that failed */
  private async runParts(
    context: Context,
    row: PackRunRow,
    parts: readonly PlannedPart[],
    moments: Moments,
    told: Told,
  ): Promise<RunRecord[]> {
    const made: RunRecord[] = []
    const sentences: string[] = []
    let next = 0
    let done = 0
    const stops = () => made.forEach(run => void this.app.runs.cancel(context, run.id))
    context.signal?.addEventListener('abort', stops, { once: true })
    const one = async (): Promise<void> => {
      while (next < parts.length && !context.signal?.aborted) {
        const at = next++
        const { input, report, part, title } = parts[at]!
        const run = this.app.runs.start(context, { ...input, moment: moments.opened }, report.report, { id: row.id, part, moments })
        made[at] = run
        await run.over
        if (run.state !== 'done') sentences.push(...(run.sentences ?? []).map(sentence => `“${title}”: ${sentence}`))
        told({ doing: 'reading', done: ++done, of: parts.length, at: title })
      }
    }
    await Promise.all(Array.from({ length: atOnce }, one))
    if (context.signal?.aborted) throw context.signal.reason as Error
    if (sentences.length) throw new RunError(sentences)
    return made
  }

  /** What all reports' tie-outs, and those across them, come to. */
  private async tiesOf(
    context: Context,
    pack: PackDefinition,
    parts: readonly PlannedPart[],
    made: readonly RunRecord[],
    moments: Moments,
  ): Promise<PackTieResult[]> {
    const own = made.flatMap((run, at) => (run.result?.tieOuts ?? []).map(each => ({ ...each, report: parts[at]!.title })))
    const known = new Map<string, PackFigure[]>()
    for (const { report, input } of parts) {
      const figures = figuresOf(pack, report.id)
      if (!figures.length) continue
      const tieOuts = figures.map((figure, at) => ({ id: String(at), name: report.name, left: figure, right: figure, tolerance: '0' }))
      const { heldByAll: _, letter: __, ...plain } = input
      const results = await this.app.pool.tieOuts(context, { ...plain, definition: { ...input.definition, tieOuts } }, moments)
      figures.forEach((figure, at) => {
        const { left, sentence } = results[at]!
        const key = JSON.stringify([report.id, figure])
        const found: PackFigure = left === undefined ? { sentence: `“${report.name}”: ${sentence ?? ''}` } : parseDecimal(left)!
        known.set(key, [...(known.get(key) ?? []), found])
      })
    }
    const across = packTies(pack.ties, (report, figure) => known.get(JSON.stringify([report, figure])) ?? [])
    return [...across, ...own]
  }

  /** Letters to the records of those reports that go out by them; what has no address is a file of its own. */
  private async writeLetters(
    context: Context,
    row: PackRunRow,
    parts: readonly PlannedPart[],
    made: readonly RunRecord[],
    told: Told,
  ): Promise<{ made: MadeLetters[]; files: MadeFile[] }> {
    const found: MadeLetters[] = []
    const files: MadeFile[] = []
    await this.folder.make(row.id)
    for (const [at, { report, title, input }] of parts.entries()) {
      const recipient = row.definition.to.find(each => each.is === 'records' && each.report === report.id)
      const run = made[at]!
      if (!recipient || run.places.length < 2) continue
      const folder = `letters-${at}`
      await rm(join(this.folder.of(row.id), folder), { recursive: true, force: true })
      const kept = run.result?.kept && keptOf(run)
      if (!kept) throw new RunError([`“${title}” has kept no rows to write letters by; run the pack again.`])
      const { rest } = await this.app.pool.letters(
        context,
        { ...input, moment: run.input.moment! },
        kept,
        pagesOf(run),
        join(this.folder.of(row.id), folder),
        pages => told({ doing: 'letters', done: pages, of: run.places.length - 1, at: title }),
      )
      found.push({ recipient: recipient.id, folder })
      if (rest) files.push({ format: 'rest', name: `${cleanFileName(`${title} without address`)}.pdf`, file: join(folder, restFile) })
    }
    return { made: found, files }
  }

  /** The pages of all reports as one HTML text for letters. */
  private async writePages(
    context: Context,
    row: PackRunRow,
    parts: readonly PlannedPart[],
    made: readonly RunRecord[],
  ): Promise<LetterPages> {
    const folder = this.folder.of(row.id)
    const bodies: { title: string; html: string }[] = []
    for (const [at, { title }] of parts.entries()) {
      const { result, input } = made[at]!
      if (!result?.kept) continue
      const file = join(folder, 'part.html')
      await this.app.pool.written(context, { ...input }, keptOf(made[at]!), { format: 'html', file })
      bodies.push({ title, html: await readFile(file, 'utf8') })
      await rm(file)
    }
    const html = joinedPages(row.name, bodies)
    const said = tooLarge(Buffer.byteLength(html))
    if (said) return { tooLarge: said }
    await writeFile(join(folder, 'pages.html'), html)
    return { file: 'pages.html' }
  }

  private async write(
    context: Context,
    row: PackRunRow,
    {
      values,
      around,
      parts,
      made,
      ties,
      moment,
    }: PlannedPack & { made: readonly RunRecord[]; ties: readonly PackTieResult[]; moment: number },
    told: Told,
  ): Promise<MadeFile[]> {
    const { definition: pack } = row
    const names = fileNames(row.name, pack, values, around)
    const packed = parts.map(({ title }, at) => ({ title, kept: pagesOf(made[at]!) })).filter(each => each.kept.places.length > 1)
    if (!packed.length) throw new RunError(['No report of the pack has any pages for these answers.'])
    const files: MadeFile[] = []
    await this.folder.make(row.id)
    for (const format of wantedFiles(pack)) {
      const file = `${format}.${format}`
      const path = join(this.folder.of(row.id), file)
      if (existsSync(path)) await rm(path)
      if (format === 'xlsx')
        await this.app.pool.packBook(context, {
          title: row.name,
          parts: parts.flatMap(({ title }, at) => {
            const { result, input: asked } = made[at]!
            return result?.kept ? [{ title, input: { ...asked }, kept: keptOf(made[at]!) }] : []
          }),
          facts: [
            ...pack.parameters.filter(each => !each.hidden).map((each): [string, string] => [each.label, answerWords(each, values)]),
            ['Read at', new Date(moment).toISOString()],
          ],
          file: path,
        })
      else if (format === 'zip') await this.app.pool.pack(context, { parts: packed, file: path })
      else
        await this.app.pool.pack(context, {
          title: names.pdf,
          parts: packed,
          numbered: pack.out.numbered,
          ...(pack.out.cover ? { cover: coverOf(row.name, pack, values, ties, moment) } : {}),
          file: path,
        })
      files.push({ format, name: names[format], file })
      told({ doing: 'writing', done: files.length, of: wantedFiles(pack).length })
    }
    return files
  }
}

/** Files that are made of a pack. */
const wantedFiles = ({ out }: PackDefinition): ('pdf' | 'xlsx' | 'zip')[] => [
  ...(out.pdf ? ['pdf' as const] : []),
  ...(out.xlsx ? ['xlsx' as const] : []),
  ...(out.zip ? ['zip' as const] : []),
]
