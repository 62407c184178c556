import { blocksOf } from '../walk'
import { changeStatement } from './statement'
import { isStatementBlock, type StatementBlock } from '../blocks/statement'
import type { ReportDefinition } from '../report'

/** Answers of a run that say a footnote otherwise begin like this, then come the statement and the footnote. */
export const footnotePrefix = 'footnote.'

const statements = (report: ReportDefinition): StatementBlock[] =>
  report.layouts.flatMap(blocksOf).flatMap(block => (isStatementBlock(block) ? [block] : []))

/** Footnotes of a report, by the name under which a run can say them otherwise. */
export function footnotesOf(report: ReportDefinition, layout?: string): { name: string; statement: string; text: string }[] {
  return (
    layout === undefined ? statements(report) : statements({ ...report, layouts: report.layouts.filter(each => each.name === layout) })
  ).flatMap(block =>
    (block.footnotes ?? []).map(({ id, text }) => ({ name: `${footnotePrefix}${block.id}.${id}`, statement: block.id, text })),
  )
}

/**
 * A report whose footnotes are those of a run, where the answers say them; one said as nothing is left out, with its marks. Comes back
 * with the names of those that are not there.
 */
export function withFootnotes(
  report: ReportDefinition,
  answers: Readonly<Record<string, string>>,
): { report: ReportDefinition; unknown: string[] } {
  const said = Object.entries(answers).filter(([name]) => name.startsWith(footnotePrefix))
  if (!said.length) return { report, unknown: [] }
  const known = footnotesOf(report)
  let changed = report
  for (const [name, text] of said) {
    const found = known.find(each => each.name === name)
    if (!found) continue
    const id = name.slice(footnotePrefix.length + found.statement.length + 1)
    changed = changeStatement(changed, found.statement, block =>
      text.trim()
        ? { ...block, footnotes: block.footnotes!.map(each => (each.id === id ? { ...each, text } : each)) }
        : {
            ...block,
            footnotes: block.footnotes!.filter(each => each.id !== id),
            lines: block.lines.map(line => (line.footnote === id ? without(line) : line)),
          },
    )
  }
  return { report: changed, unknown: said.map(([name]) => name).filter(name => !known.some(each => each.name === name)) }
}

function without<T extends { footnote?: string }>({ footnote: _, ...line }: T): Omit<T, 'footnote'> {
  return line
}
