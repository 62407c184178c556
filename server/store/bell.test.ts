import { afterAll, beforeAll, expect, it } from 'vitest'
import { removeServer, startServer, type TestServer } from '../../tests/servers'
import { Store } from './store'

let server: TestServer
let stores: Store[]
beforeAll(async () => {
  server = startServer()
  stores = [await Store.open({ url: server.url }), await Store.open({ url: server.url })]
}, 120_000)
afterAll(async () => {
  await Promise.all((stores ?? []).map(each => each.close()))
  if (server) removeServer(server)
})

it('programs on one store hear of work that either of them has, also after their connections were lost', async () => {
  const [one, two] = stores as [Store, Store]
  const heard = [0, 0]
  let news = () => {}
  await one.bell.on(() => void (heard[0]!++, news()))
  await two.bell.on(() => void (heard[1]!++, news()))
  const both = () => new Promise<void>(resolve => (news = () => heard.every(Boolean) && resolve()))
  const all = both()
  await one.bell.ring()
  await all
  server.sql("select pg_terminate_backend(pid) from pg_stat_activity where query like 'listen %'")
  heard.fill(0)
  const again = both()
  // whoever is not there yet hears the next
  const ringing = setInterval(() => void two.bell.ring(), 300)
  await again
  clearInterval(ringing)
  expect(heard.every(Boolean)).toBe(true)
})
