import { open, rm } from 'node:fs/promises'
import type { H3Event } from 'h3'
import type { Output } from '../../core/api/outputs'
import type { Context } from '../access/context'
import type { Estante } from '../estante'
import type { RunInput } from '../runs/input'
import type { RunOutput } from '../runs/output'
import type { RunResult } from '../runs/tasks'
import { sendFile } from './sendFile'

/**
 * Answers a request with the file of one run, which is gone with the connection; a reader who goes away stops the run, and what it has
 * written goes when its thread has let go of it. `ready` says what stands above the file.
 */
export async function sendRun(
  context: Context,
  event: H3Event,
  app: Estante,
  input: RunInput,
  output: Output,
  ready: (result: RunResult) => void,
): Promise<unknown> {
  const file = app.runs.passingFile()
  const clean = () => rm(file, { force: true }).catch(() => {})
  try {
    ready(await app.pool.run(context, input, { ...output, file } as RunOutput))
    return await sendFile(event, await open(file))
  } finally {
    await clean()
  }
}
