import { changeLevel } from './levels'
import { blocksOf } from '../walk'
import { changeBlock } from './layout'
import { freeId } from '../names'
import type { AgeingDefinition, LevelDefinition } from '../levels'
import { isTable, type CellDefinition, type TableBlock } from '../blocks/table'
import type { ReportDefinition } from '../report'

/** Not due, and so many days past due: what an ageing starts with. */
export const pastColumns: AgeingDefinition['columns'] = [
  { label: 'Not due', upTo: 0 },
  { label: '1–30', upTo: 30 },
  { label: '31–60', upTo: 60 },
  { label: '61–90', upTo: 90 },
  { label: 'Over 90' },
]
/** What is to come. */
export const aheadColumns: AgeingDefinition['columns'] = [
  { label: 'Overdue', upTo: -1 },
  { label: 'This week', upTo: 'weekEnd' },
  { label: 'This month', upTo: 'monthEnd' },
  { label: 'Later' },
]

/** Edits of ageings: the setting on a level, and the columns of tables that show it. */

/**
 * Puts an ageing on a level, or (with `before`) in the place of the one so named. Tables that show it follow: as many columns as it has,
 * with its labels as titles.
 */
export function putAgeing(report: ReportDefinition, level: string, ageing: AgeingDefinition, before?: string): ReportDefinition {
  const old = levelAt(report, level)?.ageings?.find(each => each.name === (before ?? ageing.name))
  const next = changeLevel(report, level, found => {
    const list = found.ageings ?? []
    const at = list.findIndex(each => each.name === (before ?? ageing.name))
    return { ...found, ageings: at < 0 ? [...list, ageing] : list.map((each, index) => (index === at ? ageing : each)) }
  })
  return old
    ? tablesOn(next, level).reduce(
        (now, table) => changeBlock(now, table.id, block => (isTable(block) ? follow(block, old, ageing) : block)),
        next,
      )
    : next
}

/** Takes an ageing out; tables keep their columns, whose cells are then told as problems. */
export function removeAgeing(report: ReportDefinition, level: string, name: string): ReportDefinition {
  return changeLevel(report, level, found => ({ ...found, ageings: (found.ageings ?? []).filter(each => each.name !== name) }))
}

/** Puts the columns of an ageing into a table, at the end or after a column, each with its sum at every end of a group and of the table. */
export function addAgeColumns(report: ReportDefinition, block: string, ageing: AgeingDefinition, after?: string): ReportDefinition {
  return changeBlock(report, block, found => {
    if (!isTable(found)) return found
    const ids = found.columns.map(column => column.id)
    const made = ageing.columns.map((column, index) => {
      const id = freeId(`${ageing.name}_${index}`, ids)
      ids.push(id)
      return { id, label: column.label, field: `${ageing.name}_${index}` }
    })
    const at = after ? found.columns.findIndex(column => column.id === after) + 1 : found.columns.length
    const columns = [...found.columns]
    columns.splice(at, 0, ...made.map(({ id }) => ({ id, width: 64, style: { align: 'right' as const } })))
    const text = (kind: string, each: (typeof made)[number]) =>
      kind === 'titles'
        ? each.label
        : kind === 'line'
          ? `{{ ${each.field} }}`
          : kind === 'groupEnd' || kind === 'end'
            ? `{{ sum(${each.field}) }}`
            : undefined
    return {
      ...found,
      columns,
      rows: found.rows.map(row => ({
        ...row,
        cells: {
          ...row.cells,
          ...Object.fromEntries(
            made.flatMap((each): [string, CellDefinition][] => {
              const written = text(row.kind, each)
              return written === undefined ? [] : [[each.id, { text: written }]]
            }),
          ),
        },
      })),
    }
  })
}

const levelAt = (report: ReportDefinition, name: string): LevelDefinition | undefined => {
  const visit = (level: LevelDefinition): LevelDefinition | undefined =>
    level.name === name ? level : level.details.map(visit).find(found => found)
  return report.dataSets.map(set => visit(set.root)).find(found => found)
}

const tablesOn = (report: ReportDefinition, level: string): TableBlock[] =>
  report.layouts.flatMap(blocksOf).filter((block): block is TableBlock => isTable(block) && block.level === level)

/** Which field of the ageing a column shows: the one that most of its cells speak of. */
function shows(table: TableBlock, column: string, ageing: AgeingDefinition): number | undefined {
  const places = table.rows.flatMap(row =>
    [...(row.cells[column]?.text ?? '').matchAll(new RegExp(`\\b${ageing.name}_(\\d+)\\b`, 'g'))].map(match => Number(match[1])),
  )
  return places.length && places.every(place => place === places[0]) ? places[0] : undefined
}

function follow(table: TableBlock, old: AgeingDefinition, now: AgeingDefinition): TableBlock {
  const shown = new Map(
    table.columns.flatMap(column => {
      const place = shows(table, column.id, old)
      return place === undefined ? [] : [[column.id, place] as const]
    }),
  )
  if (!shown.size) return table
  const kept = table.columns.filter(column => (shown.get(column.id) ?? 0) < now.columns.length)
  const [last, lastPlace] = [...shown].sort((a, b) => a[1] - b[1]).at(-1)!
  const whole = new Set(shown.values()).size === old.columns.length
  const added = whole ? now.columns.map((_, place) => place).filter(place => place >= old.columns.length) : []
  const ids = table.columns.map(column => column.id)
  const fresh = added.map(place => {
    const id = freeId(`${now.name}_${place}`, ids)
    ids.push(id)
    return { id, place }
  })
  const columns = kept.flatMap(column => (column.id === last ? [column, ...fresh.map(({ id }) => ({ ...column, id }))] : [column]))
  const moved = (text: string, to: number) => text.replaceAll(new RegExp(`\\b${old.name}_${lastPlace}\\b`, 'g'), `${now.name}_${to}`)
  const renamed = (text: string) =>
    old.name === now.name ? text : text.replaceAll(new RegExp(`\\b${old.name}_(\\w+)\\b`, 'g'), `${now.name}_$1`)
  const rows = table.rows.map(row => {
    const cells: Record<string, CellDefinition> = {}
    for (const [id, cell] of Object.entries(row.cells)) {
      const place = shown.get(id)
      if (place !== undefined && place >= now.columns.length) continue
      cells[id] = {
        ...cell,
        text:
          row.kind === 'titles' && place !== undefined && cell.text === old.columns[place]?.label
            ? now.columns[place]!.label
            : renamed(cell.text),
      }
    }
    for (const { id, place } of fresh) {
      const model = row.cells[last]
      if (model) cells[id] = { ...model, text: row.kind === 'titles' ? now.columns[place]!.label : moved(renamed(model.text), place) }
    }
    return { ...row, cells }
  })
  return { ...table, columns, rows }
}
