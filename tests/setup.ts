import { chmodSync, existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { openEstante } from '../server/estante'
import '../plugins'
import { buildWorkers } from '../scripts/workers.mjs'
import { tellServer } from './onServer'
import { loadCompany, startServer, type TestServer } from './servers'
import { template } from './support'

/**
 * Before all unit tests: the workers are built, and a data folder with the demo company is made once, to be copied by each test. What the
 * tests leave is in one folder, which goes with them.
 */
export default async function setup(): Promise<() => void> {
  const folder = mkdtempSync(join(tmpdir(), 'estante-run-'))
  // servers of the tests run as somebody else
  chmodSync(folder, 0o1777)
  process.env.TMPDIR = folder
  process.env.ESTANTE_ROOT = process.cwd()
  await buildWorkers()
  if (existsSync(template)) rmSync(template, { recursive: true })
  mkdirSync(join(template, '..'), { recursive: true })
  const estante = await openEstante({ folder: template })
  await estante.close()
  const server = process.env.ESTANTE_TESTS_ON === 'server' ? await companyServer() : undefined
  return () => {
    server?.stop()
    try {
      rmSync(folder, { recursive: true, force: true, maxRetries: 20 })
    } catch {
      // a process of a test that is ending still writes: what is left there is no fault of the tests
    }
  }
}

/** A server whose database `company` is copied by each file of tests. */
async function companyServer(): Promise<TestServer> {
  const server = startServer()
  await loadCompany(server, 'company')
  server.sql('create database company template postgres')
  tellServer(server)
  return server
}
