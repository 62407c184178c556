import { createReadStream, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type H3Event, sendStream } from 'h3'
import type { RunInput } from '../runs/execute'
import type { RunOutput, RunResult } from '../runs/run.worker'
import type { Estante } from '../estante'

/**
 * Answers a request with the file of one run, made in a folder that is gone with the connection; a reader who goes away stops the run.
 * `ready` says what stands above the file.
 */
export async function sendRun(
  event: H3Event,
  app: Estante,
  input: RunInput,
  output: Omit<RunOutput, 'file'>,
  ready: (result: RunResult) => void,
): Promise<unknown> {
  const folder = mkdtempSync(join(tmpdir(), 'estante-'))
  const clean = () => rmSync(folder, { recursive: true, force: true })
  const stop = new AbortController()
  event.node.res.on('close', () => {
    stop.abort(new Error('The reader went away.'))
    clean()
  })
  try {
    const file = join(folder, 'out')
    ready(await app.pool.run(input, { ...output, file } as RunOutput, { signal: stop.signal }))
    return await sendStream(event, createReadStream(file))
  } catch (error) {
    clean()
    throw error
  }
}
