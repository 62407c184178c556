import type { H3Event } from 'h3'
import type { DeliveryInfo, PackInfo, PackRunDetail, PackRunInfo, PackTieResult } from '../../core/api/packs'
import type { Context } from '../access/context'
import type { Estante } from '../estante'
import type { MadeFile, MailContent } from '../packs/toSend'
import { seesRead } from '../runs/theirs'
import type { DeliveryRow } from '../store/deliveryRows'
import type { PackRow } from '../store/packRows'
import type { PackRunRow } from '../store/packRunRows'
import { StoreError } from '../store/records'

/** The run of a pack that a request names. @throws StoreError */
export async function packRunOf(context: Context, event: H3Event, app: Estante): Promise<PackRunRow> {
  const run = await app.store.packRuns.find(partOf(event, 'id'))
  if (!run || !(await seesPackRun(context, app, run)))
    throw new StoreError('This run of a pack is not kept any more; run the pack again.', 404)
  return run
}

/** Is it theirs to see: their own, or, for an administrator, anybody's, and nothing in it that guards would hide from them now? */
export async function seesPackRun(context: Context, app: Estante, run: PackRunRow): Promise<boolean> {
  const { signedIn } = context
  if (!signedIn) return true
  if (signedIn.role !== 'administrator' && run.personId !== signedIn.id) return false
  for (const part of await app.store.runs.partsOf(run.id))
    if (!(await seesRead(context, app.sources, part.sources as string[], part.sights as Record<string, string>))) return false
  return true
}

/** The letter of the outbox that a request names. @throws StoreError */
export async function letterOf(event: H3Event, app: Estante) {
  const found = await app.outbox.letter(partOf(event, 'id'))
  if (!found) throw new StoreError('This letter is not in the outbox any more.', 404)
  return found
}

/** How many of the next times are shown. */
export const nextShown = 5

export async function packInfo(context: Context, app: Estante, pack: PackRow, runs: number): Promise<PackInfo> {
  const found: PackRunInfo[] = []
  for (const each of await app.store.packRuns.list(pack.id, runs))
    if (await seesPackRun(context, app, each)) found.push(packRunInfo(app, each))
  return {
    id: pack.id,
    name: pack.name,
    version: pack.version,
    definition: pack.definition,
    next: (await app.schedule.next(pack, nextShown)).map(at => new Date(at).toISOString()),
    left: (await app.store.packs.occasions(pack.id, 20)).filter(each => each.state === 'left').map(each => each.occasion),
    ...(found[0] ? { last: found[0] } : {}),
    runs: found,
  }
}

export function packRunInfo(app: Estante, run: PackRunRow): PackRunInfo {
  const ties = (run.ties as PackTieResult[] | null) ?? []
  const progress = app.packs.progressOf(run.id) ?? (run.progress as PackRunInfo['progress'] | null)
  const grows = run.state === 'running' || run.state === 'sending'
  return {
    id: run.id,
    pack: run.packId,
    name: run.name,
    state: run.state,
    dry: run.dry,
    ...(run.occasion === null ? {} : { occasion: run.occasion }),
    startedAt: run.createdAt.toISOString(),
    ...(run.endedAt ? { endedAt: run.endedAt.toISOString() } : {}),
    ...(run.moment ? { moment: run.moment.toISOString() } : {}),
    ...(run.personName === null ? {} : { person: run.personName }),
    asked: run.asked as string[],
    ...(grows && progress ? { progress } : {}),
    ...(ties.length ? { ties: { count: ties.length, failed: ties.filter(each => !each.holds) } } : {}),
    ...(run.sentences ? { sentences: run.sentences as string[] } : {}),
    files: (run.files as MadeFile[]).map(({ format, name, file }) => ({ format, name, file })),
    ...(run.decidedAt ? { decided: { by: run.decidedBy ?? '', at: run.decidedAt.toISOString(), reason: run.reason ?? '' } } : {}),
  }
}

export async function packRunDetail(context: Context, app: Estante, run: PackRunRow): Promise<PackRunDetail> {
  const [parts, counts] = await Promise.all([app.store.runs.partsOf(run.id), app.store.deliveries.counts(run.id)])
  const order = new Map(run.definition.reports.map((each, at) => [each.id, at]))
  return {
    ...packRunInfo(app, run),
    parts: parts
      .map(row => ({
        id: row.id,
        part: row.part ?? '',
        name: row.name,
        state: row.state,
        pages: row.pages,
        report: row.reportId,
        answers: row.answers as Record<string, string>,
        ...(row.layout === null ? {} : { layout: row.layout }),
        asked: row.asked as string[],
      }))
      .sort((one, other) => (order.get(one.part.split(' ')[0]!) ?? 0) - (order.get(other.part.split(' ')[0]!) ?? 0)),
    counts,
    allTies: (run.ties as PackTieResult[] | null) ?? [],
  }
}

export const deliveryInfo = (row: DeliveryRow): DeliveryInfo => ({
  id: row.id,
  kind: row.kind,
  to: row.to as string[],
  about: row.about,
  state: row.state,
  ...(row.said === null ? {} : { said: row.said }),
  ...(row.at ? { at: row.at.toISOString() } : {}),
  files: row.kind === 'mail' ? (row.content as MailContent).files.map(each => each.name) : [],
})
