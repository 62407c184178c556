import { expect, it } from 'vitest'
import { demoDatabase } from './support'
import { emptyDatabase, testsServer } from './onServer'

it('the tests ask the engine that they are meant to ask', async () => {
  const { db } = await demoDatabase()
  const empty = await emptyDatabase()
  for (const each of [db, empty]) {
    const { rows } = await each.query<{ version: string }>('select version() as version')
    expect(/wasm|emscripten/i.test(rows[0]!.version)).toBe(!testsServer)
  }
  await empty.close()
})
