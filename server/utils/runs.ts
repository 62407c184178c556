import type { H3Event } from 'h3'
import type { Context } from '../access/context'
import type { Estante } from '../estante'
import type { RunRecord } from '../runs/runRecord'
import { StoreError } from '../store/records'

/** The run that a request names. @throws StoreError */
export async function runOf(context: Context, event: H3Event, app: Estante): Promise<RunRecord> {
  const run = await app.runs.get(context, partOf(event, 'id'))
  if (!run) throw new StoreError('This run is not kept any more; run the report again.', 404)
  return run
}
