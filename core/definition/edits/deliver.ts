import type { ReportDefinition } from '../report'

/** How the files of a report are called: a text with its answers in it; nothing for its name and answers. */
export function setFileName(report: ReportDefinition, pattern: string): ReportDefinition {
  const { fileName: before, ...rest } = report
  if ((before ?? '') === pattern) return report
  return pattern.trim() ? { ...rest, fileName: pattern } : rest
}

/** Kinds of files that readers are offered; all of them where nothing is said. */
export function setFormats(report: ReportDefinition, formats: readonly string[], all: readonly string[]): ReportDefinition {
  const { formats: _, ...rest } = report
  const wanted = all.filter(each => formats.includes(each))
  return wanted.length === all.length ? rest : { ...rest, formats: wanted }
}
