import { existsSync, mkdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { openEstante } from '../server/estante'
import '../plugins'
import { buildWorkers } from '../scripts/workers.mjs'
import { template } from './support'

/** Before all unit tests: the workers are built, and a data folder with the demo company is made once, to be copied by each test. */
export default async function setup(): Promise<void> {
  process.env.ESTANTE_ROOT = process.cwd()
  await buildWorkers()
  if (existsSync(template)) rmSync(template, { recursive: true })
  mkdirSync(join(template, '..'), { recursive: true })
  const estante = await openEstante({ folder: template })
  await estante.close()
}
