import { createReadStream, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { RunOutput } from '../runs/run.worker'
import { isAnswers } from '../utils/app'

interface Body { report: string, answers: Record<string, string>, output: Omit<RunOutput, 'file'>, layout?: string }

const formats = ['pdf', 'xlsx', 'csv', 'json', 'xml', 'html', 'svg']

/** A whole run into one file, as the command line asks for it; what it counted stands in a header. */
export default route(async (event, app) => {
  const { report: name, answers, output, layout } = await jsonBody<Body>(event, body => typeof body.report === 'string' && isAnswers(body.answers) && formats.includes(body.output?.format))
  const report = await app.store.report(name, 'published')
  const folder = mkdtempSync(join(tmpdir(), 'estante-'))
  const clean = () => rmSync(folder, { recursive: true, force: true })
  const stop = new AbortController()
  event.node.res.on('close', () => {
    stop.abort(new Error('The reader went away.'))
    clean()
  })
  try {
    const file = join(folder, 'out')
    const result = await app.pool.run({ ...await app.checkedInput(report.name, report.definition, answers), ...(typeof layout === 'string' ? { layout } : {}) }, { ...output, file } as RunOutput, { signal: stop.signal })
    setResponseHeader(event, 'x-estante-result', encodeURIComponent(JSON.stringify({ ...result, report: report.name })))
    setResponseHeader(event, 'content-type', 'application/octet-stream')
    return await sendStream(event, createReadStream(file))
  } catch (error) {
    clean()
    throw error
  }
})
