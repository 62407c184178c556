import type { FiscalCalendar } from '../books/calendar'
import type { TieOutResult } from '../definition/tieOuts'
import { compileFormula } from '../formula/evaluate'
import type { Evaluate, Standing } from '../formula/standing'
import { Lineage } from '../formula/lineage'
import type { LevelInfo, Typed } from '../formula/typed'
import type { Day } from '../value/date'
import type { DataRecords } from '../value/records'
import type { Answer } from '../value/value'
import { markedLines, type MarkedPart, printRuns, type Run } from './rich'
import { type CheckedText, compilePart, compileText, type PrintText } from './text'
import type { NestedReports } from './nested/reports'
import { pageWordsOf } from './words'

/** What formulas and texts of a layout speak of, beside the records. */
export interface ValueOptions {
  levels: readonly LevelInfo[]
  parameters: Readonly<Record<string, Answer>>
  calendar?: FiscalCalendar
  today: Day
  /** what the tie-outs came to, where they are printed */
  tieOuts?: readonly TieOutResult[]
  /** reports that are nested in the layout, by block */
  nested?: NestedReports
}

/** Works out formulas and prints texts over the records at hand, each compiled once for them and for the language that is spoken. */
export class Values {
  data!: DataRecords
  lineage!: Lineage
  /** language of what is being printed */
  language: string
  private texts = new WeakMap<CheckedText, PrintText>()
  private compiled = new WeakMap<Typed, Evaluate>()
  private memos = new WeakMap<object, unknown>()
  private readonly marked = new WeakMap<CheckedText, MarkedPart[][]>()

  constructor(
    /** language of the layout */ private readonly own: string,
    readonly options: ValueOptions,
  ) {
    this.language = own
  }

  /** Formulas and texts speak of these records from now on. */
  use(data: DataRecords): void {
    this.data = data
    this.lineage = new Lineage(this.options.levels, data)
    this.texts = new WeakMap()
    this.compiled = new WeakMap()
    this.memos = new WeakMap()
  }

  /** A formula compiled once for the records at hand. */
  evaluate(typed: Typed): Evaluate {
    let found = this.compiled.get(typed)
    if (!found) {
      const around = { ...this.options, data: this.data, continued: pageWordsOf(this.language).continued }
      this.compiled.set(typed, (found = compileFormula(typed, around, this.lineage)))
    }
    return found
  }

  /** Does a rule hold? An empty one does not. */
  holds(rule: Typed, at: Standing): boolean {
    return this.evaluate(rule)(at) === true
  }

  /** The text of a place, compiled once for the records at hand. */
  print(text: CheckedText): PrintText {
    let found = this.texts.get(text)
    if (!found) this.texts.set(text, (found = compileText(this.spoken(text), typed => this.evaluate(typed))))
    return found
  }

  /** The lines of a text with marks, in runs of one look. */
  runs(text: CheckedText, at: Standing): Run[][] {
    const spoken = this.spoken(text)
    let lines = this.marked.get(spoken)
    if (!lines) this.marked.set(spoken, (lines = markedLines(spoken)))
    return printRuns(lines, part => compilePart(part, typed => this.evaluate(typed)), at)
  }

  private spoken(text: CheckedText): CheckedText {
    return this.language === this.own ? text : (text.inLanguage?.(this.language) ?? text)
  }

  /** Goes over to another language; texts are compiled anew for it. One that is no language tag is that of the layout. */
  speak(language: string): void {
    let known: string
    try {
      known = Intl.getCanonicalLocales(language)[0] ?? this.own
    } catch {
      known = this.own
    }
    if (known === this.language) return
    this.language = known
    this.texts = new WeakMap()
    this.compiled = new WeakMap()
  }

  /** Something that is made once for the records at hand, kept under the object that it is made from. */
  memo<T>(key: object, make: () => T): T {
    if (!this.memos.has(key)) this.memos.set(key, make())
    return this.memos.get(key) as T
  }
}
