import { createReadStream, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { contentTypes } from '../../runs/output'
import type { RunOutput } from '../../runs/run.worker'

/** The current rows of a report for a spreadsheet that asks again and again; the address is the only key, so it says nothing but what is wrong with it. */
export default route(async (event, app) => {
  const today = new Date().toISOString().slice(0, 10)
  const address = await app.store.useAddress(getRouterParam(event, 'token')!.replace(/\.(csv|json)$/, ''), today)
  const report = await app.store.report(address.reportId, 'published')
  const folder = mkdtempSync(join(tmpdir(), 'estante-'))
  const clean = () => rmSync(folder, { recursive: true, force: true })
  const stop = new AbortController()
  event.node.res.on('close', () => {
    stop.abort(new Error('The reader went away.'))
    clean()
  })
  try {
    const file = join(folder, 'rows')
    await app.pool.run(await app.checkedInput(report.name, report.definition, address.answers), { ...address.output, file } as RunOutput, { signal: stop.signal })
    setResponseHeader(event, 'content-type', contentTypes[address.output.format])
    setResponseHeader(event, 'cache-control', 'no-store')
    setResponseHeader(event, 'referrer-policy', 'no-referrer')
    return await sendStream(event, createReadStream(file))
  } catch (error) {
    clean()
    throw error
  }
})
