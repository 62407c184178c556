import { readdirSync } from 'node:fs'
import { expect, test } from '@playwright/test'
import { newPack } from '../../core/pack/definition'
import { invoiceRegister } from '../../demo/reports/reports'

/** Every route, by its file: what it answers to and its path, with names of things that are not there. */
const routes = readdirSync('server/api', { recursive: true, encoding: 'utf8' })
  .filter(file => /\.(get|post|put|delete)\.ts$/.test(file))
  .map(file => {
    const [, path, method] = /^(.+)\.(get|post|put|delete)\.ts$/.exec(file)!
    return { file, method: method!.toUpperCase(), path: `/api/${path!.replace(/\/?index$/, '').replaceAll('[source]', 'caisvelho')}` }
  })
const names = ['nothing', '__proto__', '0', '%00', '..%2f..', 'x'.repeat(5000)]

const definition = invoiceRegister()
const asked = { definition, answers: {} }
const packed = { ...newPack(), to: [{ is: 'mail', id: 'a', to: ['a@b.example'], subject: 'x', body: 'y', files: ['pdf'] }] }
const ledger = { method: 'POST', path: '/api/sources/caisvelho' }
/** Bodies as the page sends them; each of their values is then replaced by one that is wrong. */
const good: Record<string, object> = {
  'choices.post.ts': { ...asked, parameter: 'region', search: 'a', offset: 0, values: ['1'], count: true },
  'count.post.ts': asked,
  'match.post.ts': { ...asked, from: 'invoices', to: 'customers', on: [{ from: 'customer_id', to: 'id' }], direction: 'related' },
  'profile.post.ts': { ...asked, level: 'invoice', path: 'number', search: '' },
  'rows.post.ts': { ...asked, limit: 5 },
  'settle.post.ts': asked,
  'split.post.ts': { ...asked, table: 'invoice_lines', key: ['invoice_id'], columns: ['quantity'] },
  'tieouts.post.ts': asked,
  'trace.post.ts': { ...asked, statement: 'x', line: 'y', column: 'z' },
  'order.post.ts': { report: 'nothing', answers: {}, output: { format: 'json' } },
  'runs/index.post.ts': { report: 'nothing', answers: {} },
  'packs/index.post.ts': { name: 'A pack', definition: packed },
  'sources/[source]/describe.post.ts': { definition, text: 'select 1 as a' },
  'sources/[source]/search.post.ts': { value: 'INV-10232', tables: ['invoices'] },
}
const wrong: unknown[] = [null, 5, -1.5, true, 'tomato', '\u0000', '\ud800', [], ['x'], {}, { a: { b: 1 } }, 'x'.repeat(300_000), 1e300]

const deepest = 4

const isSentence = (text: string) =>
  /^[\p{Lu}“0-9].*[.!?]”?$/su.test(text) &&
  text.length <= 3000 &&
  !/undefined|\[object|TypeError|RangeError|Cannot |is not (a function|iterable)/.test(text) &&
  !/call stack|invalid (byte|input)|Unexpected token|ENOENT/.test(text)

/** Whether a route may be asked with nothing: the books as they were found need no answer. */
const asksNothing = (path: string): boolean => path.endsWith('/books')

interface Sent {
  method: string
  path: string
  body?: string
}
let address = ''
const faults: string[] = []
test.beforeAll(({ baseURL }) => void (address = baseURL!))
test.afterEach(() => {
  expect(faults.splice(0)).toEqual([])
})

/** What is wrong with an answer: it is never a fault of ours, and says in a sentence what is wrong with what was asked. */
async function ask({ method, path, body }: Sent, mayBeRight: boolean, what: string): Promise<void> {
  const answer = await fetch(address + path, {
    method,
    headers: { origin: address, ...(body === undefined ? {} : { 'content-type': 'application/json' }) },
    ...(body === undefined ? {} : { body }),
  })
  const text = await answer.text()
  const told = `${method} ${path.slice(0, 60)} ${what}: ${answer.status} ${text.slice(0, 200)}`
  if (answer.status < 300 && mayBeRight) return
  if (answer.status < 400 || answer.status >= 500) return void faults.push(told)
  const { message } = JSON.parse(text) as { message?: string }
  if (!isSentence(message ?? '')) faults.push(told)
}

test('every route answers wrong names and bodies with a sentence', async () => {
  test.setTimeout(300_000)
  expect(routes.length).toBeGreaterThan(45)
  const bodies = ['', '{', '[]', '5', '"x"', 'null', '{}', '{"__proto__":{"a":1}}', '['.repeat(50_000), `{"x":"${'y'.repeat(200_000)}"}`]
  for (const { method, path } of routes) {
    const own = path.includes('[') ? names.map(name => path.replaceAll(/\[\w+\]/g, name)) : [path]
    for (const each of own) {
      const reads = method === 'GET' || method === 'DELETE'
      if (reads) await ask({ method, path: each }, true, '')
      else for (const body of bodies) await ask({ method, path: each, body }, body === '{}' && asksNothing(path), body.slice(0, 30))
    }
  }
})

test('each value of a good request replaced by one that is wrong: an answer or a sentence, never a fault', async () => {
  test.setTimeout(600_000)
  for (const [file, body] of Object.entries(good)) {
    const { method, path } = routes.find(route => route.file === file)!
    for (const { at, instead } of spoiled(body)) await ask({ method, path, body: JSON.stringify(instead) }, true, `with ${at}`)
  }
})

test('addresses that are not there, and methods that a route does not have, are refused', async () => {
  for (const path of ['/api', '/api/nothing', '/api/reports/x/y/z', '/refresh', '/refresh/a/b'])
    for (const method of ['GET', 'POST', 'PUT', 'DELETE', 'PATCH']) await ask({ method, path }, false, '')
  for (const path of ['/api/library', '/api/order', '/api/runs', `${ledger.path}/catalog`])
    await ask({ method: 'PATCH', path, body: '{}' }, false, '')
})

/** The same with one value at a time replaced, some levels deep. */
function* spoiled(good: object, depth = deepest): Generator<{ at: string; instead: object }> {
  for (const [name, value] of Object.entries(good) as [string, unknown][]) {
    const put = (instead: unknown): object =>
      Array.isArray(good)
        ? (good as unknown[]).map((each, index) => (String(index) === name ? instead : each))
        : { ...good, [name]: instead }
    for (const other of depth === deepest ? wrong : wrong.slice(0, 8))
      yield { at: `${name} ${JSON.stringify(other).slice(0, 30)}`, instead: put(other) }
    if (depth && typeof value === 'object' && value !== null && spoils(name))
      for (const { at, instead } of spoiled(value, depth - 1)) yield { at: `${name}.${at}`, instead: put(instead) }
  }
}
/** Of a definition's many parts, those that differ in kind. */
function spoils(name: string): boolean {
  return !/^[1-9]/.test(name)
}
