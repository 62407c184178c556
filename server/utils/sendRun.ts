import { createReadStream, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type H3Event, sendStream } from 'h3'
import type { Output } from '../../core/api/outputs'
import type { Context } from '../access/context'
import type { Estante } from '../estante'
import type { RunInput } from '../runs/input'
import type { RunOutput } from '../runs/output'
import type { RunResult } from '../runs/tasks'

/**
 * Answers a request with the file of one run, made in a folder that is gone with the connection; a reader who goes away stops the run.
 * `ready` says what stands above the file.
 */
export async function sendRun(
  context: Context,
  event: H3Event,
  app: Estante,
  input: RunInput,
  output: Output,
  ready: (result: RunResult) => void,
): Promise<unknown> {
  const folder = mkdtempSync(join(tmpdir(), 'estante-'))
  const clean = () => rmSync(folder, { recursive: true, force: true })
  event.node.res.on('close', clean)
  try {
    const file = join(folder, 'out')
    ready(await app.pool.run(context, input, { ...output, file } as RunOutput))
    return await sendStream(event, createReadStream(file))
  } catch (error) {
    clean()
    throw error
  }
}
