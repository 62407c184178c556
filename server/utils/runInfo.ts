import { type RunInfo, tiesOf } from '../../core/api/runs'
import type { Context } from '../access/context'
import type { Estante } from '../estante'
import type { RunRecord } from '../runs/runRecord'
import type { ListedRun, RunRow } from '../store/runRows'
import type { RunResult } from '../runs/tasks'

/** A run for a list: as it is written down, and, while it is worked at here, as it is. */
export async function runInfo(
  context: Context,
  app: Estante,
  { row, run }: { row: ListedRun; run: RunRecord | undefined },
): Promise<RunInfo> {
  const own = run?.elsewhere ? undefined : run
  const state = own?.state ?? row.state
  const ended = state !== 'waiting' && state !== 'running'
  const ms = row.ms as RunResult['ms'] | null
  const rows = row.rows as Record<string, number> | null
  const sentences = own?.sentences ?? (row.sentences as string[] | null)
  const ties = tiesOf(row.tieOuts as RunResult['tieOuts'])
  return {
    id: row.id,
    report: row.reportId,
    name: row.name,
    ...(row.layout === null ? {} : { layout: row.layout }),
    answers: row.answers as Record<string, string>,
    asked: row.asked as string[],
    state,
    pages: own && !ended ? own.places.length - 1 : row.pages,
    startedAt: row.createdAt.toISOString(),
    ...(row.personName === null ? {} : { person: row.personName }),
    mine: !context.signedIn || row.personId === context.signedIn.id,
    ...(sentences ? { sentences } : {}),
    ...(rows ? { rows: Object.values(rows)[0] ?? 0 } : own && !ended ? { rows: own.read } : {}),
    ...(ms ? { ms: Object.values(ms).reduce((sum, each) => sum + each, 0) } : {}),
    ...(own && !ended ? progressOf(own, await app.runs.earlier(context, own)) : {}),
    ...(ties ? { ties } : {}),
    files: own ? filesOf(own) : filesIn(row),
    pinned: row.pinned,
    ...(row.state === 'done' && row.earlier ? { earlier: row.earlier } : {}),
  }
}

/**
 * What a run may come to, and what may be left of it, by the one before it: a rest is told once a tenth of its pages are there, and only
 * where it was asked the same.
 */
export function progressOf(run: RunRecord, before: RunRow | undefined): Pick<RunInfo, 'about' | 'left'> {
  if (!before || JSON.stringify(before.answers) !== JSON.stringify(run.input.answers)) return {}
  const rows = Object.values((before.rows as Record<string, number> | null) ?? {})[0] ?? 0
  const pages = run.places.length - 1
  const share = pages / before.pages
  const since = Date.now() - Date.parse(run.startedAt)
  return { about: { rows, pages: before.pages }, ...(share >= 0.1 && share < 1 ? { left: Math.round((since * (1 - share)) / share) } : {}) }
}

const queryOf = (key: string): string =>
  new URLSearchParams(
    Object.entries(JSON.parse(key) as Record<string, unknown>).map(([name, value]) => [name, value === true ? 'yes' : String(value)]),
  ).toString()

const filesOf = (run: RunRecord): RunInfo['files'] =>
  [...run.files].map(([key, { format, state }]) => ({ format, state, query: queryOf(key) }))

const filesIn = (row: RunRow): RunInfo['files'] =>
  (row.files as { key: string; format: string }[]).map(({ key, format }) => ({ format, state: 'done', query: queryOf(key) }))
