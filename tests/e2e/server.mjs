// The production build on a fresh data folder, for the end-to-end tests.
import { rmSync } from 'node:fs'
import { fileURLToPath } from 'node:url'

const root = fileURLToPath(new URL('../..', import.meta.url))
const data = `${root}.build/e2e-data`
rmSync(data, { recursive: true, force: true })
Object.assign(process.env, {
  ESTANTE_ROOT: root,
  ESTANTE_DATA: data,
  ESTANTE_PEOPLE: process.env.ESTANTE_PEOPLE ?? 'none',
  NITRO_HOST: '127.0.0.1',
  NITRO_PORT: process.argv[2],
  PORT: process.argv[2],
})
await import(`${root}.output/server/index.mjs`)
