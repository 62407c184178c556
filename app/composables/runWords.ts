import type { RunInfo } from '../../core/api/runs'

/** A stretch of time as people say it: below a second in milliseconds. */
export const secondsWords = (ms: number): string =>
  ms < 1000 ? `${ms} ms` : ms < 120_000 ? `${(ms / 1000).toFixed(ms < 60_000 ? 1 : 0)} s` : `${Math.round(ms / 60_000)} min`

/** A time that may be left, in whole seconds. */
export const restWords = (left: number): string =>
  t('runWords.left', { time: left < 120_000 ? `${Math.max(1, Math.round(left / 1000))} s` : secondsWords(left) })

/** How far a run is: what it has read or composed, of how much by the run before it, and what may be left. */
export function progressWords({ state, pages, rows, about, left }: Pick<RunInfo, 'state' | 'pages' | 'rows' | 'about' | 'left'>): string {
  if (state === 'waiting') return t('runWords.waitsForItsTurn')
  const parts: string[] = []
  if (pages) {
    parts.push(t('runWords.pagesComposed', { pages: grouped(pages) }, pages))
    if (about) parts.push(t('runWords.ofAbout', { all: grouped(about.pages) }))
  } else {
    parts.push(rows ? t('runWords.recordsRead', { rows: grouped(rows) }, rows) : t('runWords.reading'))
    if (about && rows) parts.push(t('runWords.ofAbout', { all: grouped(about.rows) }))
  }
  if (left !== undefined) parts.push(restWords(left))
  return parts.join(' ')
}
