import type { LedgerMap } from '../books/ledger'
import type { Block } from '../definition/blocks/block'
import type { BlockBase } from '../definition/blocks/base'
import type { ParameterType } from '../definition/parameters'
import type { ThemeDefinition } from '../definition/style'
import { checkFormula } from '../formula/check'
import { currencyOf } from '../formula/currency'
import { fieldsUsed } from '../formula/parts'
import { FormulaError } from '../formula/syntax'
import type { FieldInfo, LevelInfo, Scope, Typed } from '../formula/typed'
import type { LayoutNotice } from './notices'
import type { LayoutProblem, PreparedBlock } from './prepared'
import { type CheckedText, checkText, type Translations } from './text'

/** What all blocks of a layout are prepared with. One object as long as nothing of it changes: what is prepared is kept under it. */
export interface LayoutSurroundings {
  levels: readonly LevelInfo[]
  parameters: Readonly<Record<string, ParameterType>>
  language: string
  theme: ThemeDefinition
  /** width in points that blocks can fill */
  width: number
  translations?: Translations
  /** where the source keeps its books */
  ledger?: LedgerMap
  /** tie-outs, for where they are printed */
  tieOuts: readonly { id: string; name: string }[]
}

export type ProblemPlace = Omit<LayoutProblem, 'sentence' | 'from' | 'to'>

/** What the preparation of a block found out, beside the block itself. */
export interface Findings {
  problems: LayoutProblem[]
  notices: LayoutNotice[]
  /** fields that are read: level and path */
  used: [level: number, path: string][]
  formulas: Typed[]
}

/** Texts and formulas that were checked before, by their words and place: an edit checks only what it touches. */
interface Checked {
  texts: Map<string, CheckedText>
  formulas: Map<string, Typed>
}
const checkedBefore = new WeakMap<LayoutSurroundings, Checked>()
const mostChecked = 5000

/** Checks the texts and formulas of one block, and gathers what it reads and what is wrong with it. */
export class PrepareScope {
  readonly found: Findings = { problems: [], notices: [], used: [], formulas: [] }
  private readonly checked: Checked

  constructor(
    readonly surroundings: LayoutSurroundings,
    /** prepares a block inside this one */ readonly block: (inner: Block, under: number) => PreparedBlock,
  ) {
    let checked = checkedBefore.get(surroundings)
    if (!checked) checkedBefore.set(surroundings, (checked = { texts: new Map(), formulas: new Map() }))
    if (checked.texts.size + checked.formulas.size > mostChecked) {
      checked.texts.clear()
      checked.formulas.clear()
    }
    this.checked = checked
  }

  get levels(): readonly LevelInfo[] {
    return this.surroundings.levels
  }

  get theme(): ThemeDefinition {
    return this.surroundings.theme
  }

  get width(): number {
    return this.surroundings.width
  }

  /** Where the formulas of a level stand. */
  at(level: number): Scope {
    const { levels, parameters, language } = this.surroundings
    return { levels, level, parameters, page: true, language }
  }

  /** A text with values in it; one with a fault is noted and stands on the page as the author wrote it. */
  text(source: string, scope: Scope, at: ProblemPlace): CheckedText {
    const { language, translations } = this.surroundings
    const key = placeKey(scope, source)
    let checked = this.checked.texts.get(key)
    if (!checked) {
      try {
        checked = checkText(source, scope, language, translations)
      } catch (error) {
        if (!(error instanceof FormulaError)) throw error
        this.problem({ ...at, sentence: error.message, from: error.from, to: error.to })
        return { lines: source.split('\n').map(literal => (literal ? [{ literal }] : [])), formulas: [], late: false }
      }
      this.checked.texts.set(key, checked)
    }
    checked.formulas.forEach(typed => this.note(typed))
    return checked
  }

  /** A formula that is not printed; `test` wants yes or no. One with a fault is noted and left out. */
  formula(source: string | undefined, scope: Scope, at: ProblemPlace, test = true): Typed | undefined {
    if (!source) return undefined
    const key = placeKey(scope, source)
    let typed = this.checked.formulas.get(key)
    try {
      if (!typed) this.checked.formulas.set(key, (typed = checkFormula(source, { ...scope, page: false })))
      if (test && typed.type !== 'boolean') throw new FormulaError('A rule must be a test, such as discount > 0.', 0, source.length)
    } catch (error) {
      if (!(error instanceof FormulaError)) throw error
      this.problem({ ...at, sentence: error.message, from: error.from, to: error.to })
      return undefined
    }
    this.note(typed)
    return typed
  }

  /** The rule by which a block is shown, at the level in which it stands. */
  rule(block: BlockBase, level: number): Typed | undefined {
    return this.formula(block.showWhen, this.at(level), { block: block.id, place: 'showWhen' })
  }

  /** The level that a block names; where it is not there, that is noted, and the one around it stands in. */
  levelNamed(name: string, block: BlockBase, under: number): number {
    const found = this.levels.findIndex(level => level.name === name)
    if (found >= 0) return found
    const sentence = `The level “${name}” of this block is not in the data set; choose another level or delete the block.`
    this.problem({ block: block.id, place: 'level', sentence, from: 0, to: 0 })
    return Math.max(under, 0)
  }

  /** A formula that is worked out when pages are made: its fields are read. */
  note(typed: Typed): void {
    this.found.formulas.push(typed)
    for (const { level, path, field } of fieldsUsed(typed)) {
      this.use(level, path)
      for (const code of codesOf(field)) this.use(code.level, code.path)
      if (field.dated) this.use(level, field.dated)
    }
  }

  use(level: number, path: string): void {
    this.found.used.push([level, path])
  }

  problem(problem: LayoutProblem): void {
    this.found.problems.push(problem)
  }

  notice(...notices: LayoutNotice[]): void {
    this.found.notices.push(...notices)
  }
}

/** Fields that the currency of an amount is read from. */
function codesOf(field: FieldInfo): { level: number; path: string }[] {
  const code = currencyOf({ is: 'field', type: field.type, level: field.level, path: field.path, field })
  return code ? fieldsUsed(code) : []
}

function placeKey({ level, groups, row, page }: Scope, source: string): string {
  return `${level} ${groups?.join(',') ?? '-'} ${String(row ?? '')} ${page ? 'p' : ''} ${source}`
}
