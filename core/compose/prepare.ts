import type { LedgerMap } from '../books/ledger'
import type { Block } from '../definition/blocks/block'
import { isPanel } from '../definition/blocks/panel'
import type { ParameterType } from '../definition/parameters'
import type { LayoutDefinition } from '../definition/report'
import type { ThemeDefinition } from '../definition/style'
import { somePart } from '../formula/parts'
import type { FieldInfo, LevelInfo, Typed } from '../formula/typed'
import { needsWhole } from '../formula/whole'
import { kindOf } from './blocks/registry'
import { preparedInside } from './layoutWalk'
import { bodyWidth, pageSize } from './paperSize'
import { silentPictures } from './notices'
import { type LetterWanted, prepareLetter } from './letter'
import type { PreparedBlock, PreparedLayout, PreparedPanel } from './prepared'
import { type Findings, type LayoutSurroundings, PrepareScope } from './prepareScope'
import { themeNamed } from './style'
import type { Translations } from './text'

export interface LayoutSettings {
  parameters: Readonly<Record<string, ParameterType>>
  language: string
  themes?: readonly ThemeDefinition[]
  translations?: Translations
  /** where the source keeps its books */
  ledger?: LedgerMap
  /** tie-outs, for where they are printed */
  tieOuts?: { id: string; name: string }[]
  /** a letter that its pages go out with */
  letter?: LetterWanted
}

/** A block prepared before, with what was found on the way, also in the blocks inside it. */
interface Kept {
  under: number
  prepared: PreparedBlock
  found: Findings
}
const keptBlocks = new WeakMap<LayoutSurroundings, WeakMap<Block, Kept>>()

/** Surroundings that have not changed stay the same object, so that what was prepared in them is found again. */
let lastSurroundings: LayoutSurroundings[] = []
function surroundingsOf(wanted: LayoutSurroundings): LayoutSurroundings {
  const keys = Object.keys(wanted) as (keyof LayoutSurroundings)[]
  const found = lastSurroundings.find(each => keys.every(key => each[key] === wanted[key]) && Object.keys(each).length === keys.length)
  lastSurroundings = [found ?? wanted, ...lastSurroundings.filter(each => each !== found)].slice(0, 8)
  return lastSurroundings[0]!
}

const noTieOuts: LayoutSurroundings['tieOuts'] = []

/** Checks a layout and lays its widths out. Blocks that are the same as before, in the same surroundings, are not prepared again. */
export function prepareLayout(layout: LayoutDefinition, levels: readonly LevelInfo[], settings: LayoutSettings): PreparedLayout {
  const { parameters, language, translations, ledger, tieOuts = noTieOuts } = settings
  const theme = themeNamed(layout.theme, settings.themes)
  const surroundings = surroundingsOf({
    levels,
    parameters,
    language,
    theme,
    width: bodyWidth(layout.page),
    tieOuts,
    ...(translations ? { translations } : {}),
    ...(ledger ? { ledger } : {}),
  })
  let kept = keptBlocks.get(surroundings)
  if (!kept) keptBlocks.set(surroundings, (kept = new WeakMap()))
  const preparedBefore = kept
  const all: Findings = { problems: [], notices: [], used: [], formulas: [] }
  const preparedIn = (block: Block, under: number, into: Findings): PreparedBlock => {
    let found = preparedBefore.get(block)
    if (!found || found.under !== under) {
      const scope: PrepareScope = new PrepareScope(surroundings, (inner, level) => preparedIn(inner, level, scope.found))
      const prepared = kindOf(block).prepare(block, under, scope)
      preparedBefore.set(block, (found = { under, prepared, found: scope.found }))
    }
    gather(found.found, into)
    return found.prepared
  }
  const blocks = layout.blocks.map(block => preparedIn(block, 0, all))
  const each = preparedInside(blocks)
  for (const block of each) kindOf(block).link?.(block, each, problem => all.problems.push(problem))
  // page tops and feet stand on the level that the layout goes over
  const margin = blocks[0]?.inner ? blocks[0].level : 0
  const edge = (panel: LayoutDefinition['top']) => panel && (preparedIn(panel, margin, all) as PreparedPanel)
  const [top, foot, firstTop, firstFoot] = [layout.top, layout.foot, layout.firstTop, layout.firstFoot].map(edge)
  const own = new PrepareScope(surroundings, () => blocks[0]!)
  const documentName = layout.documentName
    ? own.text(layout.documentName, own.at(margin), { block: layout.blocks[0]?.id ?? '', place: 'outline' })
    : undefined
  const letter = settings.letter && prepareLetter(settings.letter, own, blocks)
  gather(own.found, all)
  const used = levels.map(() => new Set<string>())
  for (const [level, path] of all.used) used[level]!.add(path)
  const some = (test: (part: Typed) => boolean) => all.formulas.some(typed => somePart(typed, test))
  const restarts = blocks.every(block => block.restarts)
  const needsPageCount = some(part => part.is === 'page' && (part.word === 'overallCount' || (part.word === 'count' && !restarts)))
  const streams = blocks.length === 1 && blocks[0]!.streams === true
  const whole = levels.some(({ index, fields }) => [...used[index]!].some(path => isOf(fields.get(path), needsWhole)))
  const speaksOfAll = whole || all.formulas.some(needsWhole)
  const needsAll = !streams || speaksOfAll
  const archive = layout.archive ?? blocks.some(block => block.restarts === true)
  // what stands again on each page is not read again: the foot never, the top once
  const read = [layout.firstTop ?? layout.top, ...each.map(one => one.block as Block).filter(isPanel)].filter(one => one !== undefined)
  if (archive) all.notices.push(...silentPictures(read, layout.letterhead ? layout.top : undefined))
  const isParameter = (typed: Typed) => somePart(typed, part => part.is === 'parameter')
  const asks =
    all.formulas.some(isParameter) ||
    levels.some(({ index, fields }) => [...used[index]!].some(path => isOf(fields.get(path), isParameter)))
  return {
    page: { ...layout.page, ...pageSize(layout.page) },
    theme,
    language,
    top,
    foot,
    firstTop,
    firstFoot,
    ...(documentName ? { documentName } : {}),
    ...(letter ? { letter } : {}),
    blocks,
    problems: all.problems,
    notices: all.notices,
    used,
    needsAll,
    plain: !speaksOfAll && !asks && !each.some(block => block.columnsByRecords),
    needsPageCount,
    archive,
    independent: !needsAll && restarts && !needsPageCount && !some(part => part.is === 'page' && part.word === 'overall'),
  }
}

const isOf = (field: FieldInfo | undefined, test: (typed: Typed) => boolean) => !!field?.formula && test(field.formula)

function gather(found: Findings, into: Findings): void {
  into.problems.push(...found.problems)
  into.notices.push(...found.notices)
  into.used.push(...found.used)
  into.formulas.push(...found.formulas)
}
