import type { SwapProof } from '../../core/api/swap'
import type { ReportDefinition } from '../../core/definition/report'
import type { Context } from '../access/context'
import type { Estante } from '../estante'
import { RunError } from './input'
import type { RunRecord } from './runRecord'

/** Waits for the end of a run. @throws RunError where it came to none */
async function ended(run: RunRecord, where: string): Promise<RunRecord> {
  await run.over
  if (run.state !== 'done') throw new RunError((run.sentences ?? ['It was stopped.']).map(sentence => `On ${where}: ${sentence}`))
  return run
}

/**
 * Runs a report on two sources with the same answers, and holds what they print against one another: the proof of sameness of a swap.
 * @throws RunError with what either of them cannot do
 */
export async function proveSame(
  context: Context,
  app: Estante,
  report: { id: string; name: string; before: ReportDefinition; now: ReportDefinition },
  answers: Record<string, string>,
  layout?: string,
): Promise<SwapProof> {
  const moment = Date.now()
  const started: RunRecord[] = []
  const stop = () => started.forEach(run => void app.runs.cancel(context, run.id))
  context.signal?.addEventListener('abort', stop)
  try {
    for (const definition of [report.before, report.now]) {
      const input = await app.checkedInput(context, report.name, definition, answers, { layout })
      started.push(app.runs.start(context, { ...input, moment }, report.id))
    }
    const [before, now] = started as [RunRecord, RunRecord]
    const named = (run: RunRecord) => `“${app.sources.get(run.input.source).name}”`
    await ended(before, named(before))
    await ended(now, named(now))
    const changes = await app.runs.files.changes(context, before, now)
    const differing = await app.runs.files.differingPages(context, before, now)
    const pages = [before.places.length - 1, now.places.length - 1] as [number, number]
    const { counts } = changes
    const same = !counts.new && !counts.gone && !counts.changed && !differing.length
    return { same, before: before.id, now: now.id, pages, differing, changes }
  } catch (error) {
    stop()
    throw error
  } finally {
    context.signal?.removeEventListener('abort', stop)
  }
}
