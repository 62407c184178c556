import { connect } from 'node:net'
import { join } from 'node:path'
import { invoiceRegister } from '../../demo/reports/reports'
import { salesInvoice } from '../../demo/reports/invoice'
import { demoFolder, dice, end, scratch, startServer } from './support'

/** Requests that no page of ours sends. Each is answered with a sentence in a short time, and nobody else is kept waiting or harmed. */
const folder = join(scratch(), 'data')
await demoFolder(folder)
const server = await startServer(folder)
const roll = dice(Number(process.env.FAULTS_SEED ?? 3))
const through: string[] = []
const push = through.push.bind(through)
through.push = (...more) => {
  more.forEach(each => console.error(each.slice(0, 300)))
  return push(...more)
}
let count = 0
const longest = 10_000

interface Attack {
  name: string
  path: string
  method?: string
  body?: unknown
  headers?: Record<string, string>
  /** may be answered with 200 (what is sent is odd and yet all right) */
  harmless?: boolean
  check?: (answer: Response, text: string) => string | undefined
}
const strange = new RegExp(
  [
    'undefined|\\[object|TypeError|RangeError|Cannot (use|read|convert)|is not (a function|iterable)|call stack',
    'invalid byte|URI malformed|out of range|invalid input syntax|Unexpected token|ENOENT|EACCES',
    '\\bat .+:\\d+:\\d+|node_modules|_check\\b',
  ].join('|'),
)
const isSentence = (text: string) => text.length < 4000 && /^[\p{Lu}“‘"„0-9]/u.test(text) && /[.!?]”?$/.test(text) && !strange.test(text)

async function attack({ name, path, method = 'POST', body, headers, harmless, check }: Attack): Promise<void> {
  count++
  const begun = performance.now()
  let status = 0
  let text = ''
  try {
    const stop = new AbortController()
    const timer = setTimeout(() => stop.abort(), longest)
    const answer = await fetch(server.url + path, {
      method,
      signal: stop.signal,
      headers: { origin: server.url, ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...headers },
      ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    })
    status = answer.status
    text = await answer.text()
    clearTimeout(timer)
    const own = check?.(answer, text)
    if (own) through.push(`${name}: ${own}`)
    if (check) return
  } catch (error) {
    through.push(`${name}: no answer within ${Math.round(performance.now() - begun)} ms (${(error as Error).message})`)
    return
  }
  if (status >= 200 && status < 300) {
    if (!harmless) through.push(`${name}: taken (${status}) ${text.slice(0, 80)}`)
    return
  }
  if (status < 400 || status >= 500) {
    if (status !== 507) through.push(`${name}: ${status} ${text.slice(0, 160)}`)
    return
  }
  const { message } = (() => {
    try {
      return JSON.parse(text) as { message?: string }
    } catch {
      return { message: undefined }
    }
  })()
  if (!message || !isSentence(message)) through.push(`${name}: no sentence (${status}): ${(message ?? text).slice(0, 200)}`)
}
/** The server answers others while it works on something. */
async function othersServed(): Promise<void> {
  const begun = performance.now()
  const answer = await server.ask('/api/sources')
  await answer.arrayBuffer()
  const took = performance.now() - begun
  if (!answer.ok || took > 2500) through.push(`others wait ${Math.round(took)} ms after attack ${count}`)
}

const register = invoiceRegister()
const library = (await (await server.ask('/api/library')).json()) as { reports: { id: string; name: string }[] }[]
const id = library.flatMap(shelf => shelf.reports).find(each => each.name === 'Sales invoice')!.id
const asked = { definition: register, answers: {} }
const source = '/api/sources/caisvelho'
const month = { month: '2026-09' }
/** Good requests of every route that takes a body: what comes out of them when one part is bent is an attack. */
const good: [string, string, object][] = [
  ['POST', '/api/rows', { ...asked, limit: 10 }],
  ['POST', '/api/choices', { report: 'Sales invoice', answers: {}, parameter: 'customer', search: 'a', offset: 0 }],
  ['POST', '/api/count', asked],
  ['POST', '/api/match', { ...asked, from: 'invoices', to: 'customers', on: [{ from: 'customer_id', to: 'id' }], direction: 'related' }],
  ['POST', '/api/profile', { ...asked, level: register.dataSets[0]!.root.name, path: 'number' }],
  ['POST', '/api/split', { ...asked, table: 'invoice_lines', key: ['invoice_id'], columns: ['kind'] }],
  ['POST', '/api/settle', { report: 'Sales invoice', answers: month }],
  ['POST', '/api/tieouts', asked],
  ['POST', '/api/trace', { report: 'Income statement', answers: {}, statement: 'statement', line: 'sales', column: 'actual' }],
  ['POST', '/api/runs', { report: 'Sales invoice', answers: month }],
  ['POST', '/api/order', { report: 'Sales invoice', answers: month, output: { format: 'json' } }],
  ['POST', '/api/reports', { name: 'Attack', shelf: 'Shelf', definition: register }],
  ['POST', '/api/reports/import', { name: 'Attack', shelf: 'Shelf', text: JSON.stringify(register) }],
  ['PUT', `/api/reports/${id}`, { basedOn: 1, definition: salesInvoice() }],
  ['POST', `/api/reports/${id}/answers`, { name: 'Mine', answers: month }],
  ['POST', `/api/reports/${id}/addresses`, { label: 'x', answers: month, output: { format: 'csv', level: 'lines' }, until: '2027-01-31' }],
  ['PUT', `/api/reports/${id}/versions/1`, { name: 'First' }],
  ['PUT', `/api/reports/${id}/pinned`, { definition: register, answers: {}, format: 'json', text: '[]' }],
  ['POST', `/api/reports/${id}/pinned`, { ...asked, limit: 10 }],
  ['PUT', '/api/letterhead', { basedOn: 0, panel: { kind: 'panel', id: 'letterhead', after: 0, items: [] } }],
  ['POST', `${source}/describe`, { definition: register, text: 'select 1 as a' }],
  ['POST', `${source}/search`, { value: 'NQ', tables: ['branches'] }],
  ['POST', `${source}/books`, {}],
  ['PUT', `${source}/settings`, { basedOn: 0, settings: { relations: [], columns: {}, calculated: [] } }],
  [
    'POST',
    `${source}/desk/documents`,
    {
      kind: 'entry',
      entry: {
        date: '2026-10-15',
        description: 'x',
        lines: [
          { account: '6150', branch: 'NQ', debit: '1.00' },
          { account: '1010', branch: 'NQ', credit: '1.00' },
        ],
      },
    },
  ],
]
const values: [string, unknown][] = [
  ['null', null],
  ['a list', []],
  ['an object', {}],
  ['yes', true],
  ['−1', -1],
  ['1.5', 1.5],
  ['a huge number', 1e308],
  ['no text', ''],
  ['a space', ' '],
  ['NUL', 'a\u0000b'],
  ['half a character', 'a\ud800'],
  ['a long text', 'x'.repeat(1_500_000)],
  ['toString', 'toString'],
  ['__proto__', '__proto__'],
  ['quotes', `'"; drop table reports; --`],
  ['quoted parts', `{{${'"a"'.repeat(40)}`],
  ['50 quotes', "'".repeat(51)],
  ['spaces', `{{ ${' '.repeat(420)} x`],
]
/** Places of a value, those of a definition left aside: they have their own turn. */
function placesOf(value: unknown, path: (string | number)[] = []): (string | number)[][] {
  if (typeof value !== 'object' || value === null || path.at(-1) === 'definition') return [path]
  return [path, ...Object.entries(value).flatMap(([name, each]) => placesOf(each, [...path, Array.isArray(value) ? Number(name) : name]))]
}
function bent(value: unknown, path: readonly (string | number)[], to: unknown): unknown {
  if (!path.length) return to
  const [first, ...rest] = path
  const copy = (Array.isArray(value) ? [...(value as unknown[])] : { ...(value as object) }) as Record<string | number, unknown>
  copy[first!] = bent(copy[first!], rest, to)
  return copy
}
for (const [method, path, body] of good) {
  for (const place of placesOf(body))
    for (const [name, value] of values)
      // a name or a text may be odd and still be one; what matters is that nothing falls over
      await attack({
        name: `${method} ${path} ${place.join('.') || 'body'} = ${name}`,
        path,
        method,
        body: bent(body, place, value),
        harmless: true,
      })
  await attack({ name: `${method} ${path} no JSON`, path, method, body: '{"a":' })
  await attack({ name: `${method} ${path} deep`, path, method, body: `${'['.repeat(50_000)}${']'.repeat(50_000)}` })
  await attack({ name: `${method} ${path} nothing`, path, method, harmless: path.endsWith('/books') })
  await attack({ name: `${method} ${path} of another page`, path, method, body, headers: { origin: 'http://127.0.0.1:1' } })
  await attack({ name: `${method} ${path} without an origin`, path, method, body, headers: { origin: '' } })
  await othersServed()
}
// definitions with one part bent
const definitions = [salesInvoice(), register]
for (let turn = 0; turn < 400; turn++) {
  const definition = definitions[turn % 2]!
  const places = placesOf(definition)
  const place = places[Math.floor(roll() * places.length)]!
  const [name, value] = values[Math.floor(roll() * values.length)]!
  await attack({
    name: `definition ${place.join('.')} = ${name}`,
    path: '/api/rows',
    body: { definition: bent(definition, place, value), answers: {}, limit: 5 },
    harmless: true,
  })
}
await othersServed()

// each kind of fault that was there once
const withField = (formula: string, more: object[] = []) => {
  const own = JSON.parse(JSON.stringify(register)) as typeof register
  own.dataSets[0]!.root.calculated = [...(own.dataSets[0]!.root.calculated ?? []), ...(more as never[]), { name: 'attacked', formula }]
  return { definition: own, answers: {}, limit: 5 }
}
const withFilter = (formula: string) => {
  const own = JSON.parse(JSON.stringify(register)) as typeof register
  own.dataSets[0]!.root.filters = [formula]
  return { definition: own, answers: {}, limit: 5 }
}
const withText = (text: string) => {
  const own = JSON.parse(JSON.stringify(salesInvoice())) as ReturnType<typeof salesInvoice>
  own.layouts[0]!.documentName = text
  return { definition: own, answers: {}, limit: 5 }
}
const doubling = Array.from({ length: 16 }, (_, at) => ({ name: `d${at}`, formula: at ? `d${at - 1} + d${at - 1}` : 'total + total' }))
const single: Attack[] = [
  { name: 'a filter 1,200 deep', path: '/api/rows', body: withFilter(`${'not '.repeat(1200)}(total = total)`) },
  { name: 'a filter of 4,000 brackets', path: '/api/rows', body: withFilter(`${'('.repeat(1900)}true${')'.repeat(1900)}`), harmless: true },
  { name: 'a sum of 900 fields', path: '/api/rows', body: withField(Array(900).fill('1').join('+')) },
  { name: 'rounding to fifteen million places', path: '/api/rows', body: withField('round(1.5, -15000000)'), harmless: true },
  { name: '16 fields each twice the one before', path: '/api/rows', body: withField('d15 + d15', doubling) },
  { name: 'a parameter of the prototype', path: '/api/rows', body: withField('param.toString') },
  { name: 'a parameter of the constructor', path: '/api/rows', body: withField('param.constructor') },
  { name: 'a function of the prototype', path: '/api/rows', body: withField('hasOwnProperty(total)') },
  { name: '20 quoted parts without an end', path: '/api/rows', body: withText(`{{${'"a"'.repeat(20)}`), harmless: true },
  { name: '40,000 opened values', path: '/api/rows', body: withText('{{"'.repeat(6000)), harmless: true },
  {
    name: '6,000 answers',
    path: '/api/runs',
    body: { report: 'Sales invoice', answers: Object.fromEntries(Array.from({ length: 6000 }, (_, at) => [`a${at}`, 'x'])) },
  },
  { name: 'format 1.5', path: '/api/reports', body: { name: 'A', shelf: 'S', definition: { ...register, format: 1.5 } } },
  { name: 'format −1', path: '/api/reports', body: { name: 'A', shelf: 'S', definition: { ...register, format: -1 } } },
  {
    name: 'a level that is not there',
    path: `/api/reports/${id}/addresses`,
    body: { label: 'x', answers: month, output: { format: 'csv', level: 'nowhere' }, until: '2027-01-31' },
  },
  { name: 'a layout that is not there', path: '/api/runs', body: { report: 'Sales invoice', answers: month, layout: 'Nowhere' } },
  {
    name: 'tomato as yes',
    path: '/api/order',
    body: { report: 'Sales invoice', answers: month, output: { format: 'csv', level: 'lines', guard: 'tomato' } },
  },
  { name: 'a report of a million letters', path: '/api/reports', body: { name: 'x'.repeat(1_500_000), shelf: 'S', definition: register } },
  {
    name: 'a body of 120 MB',
    path: '/api/reports/import',
    body: JSON.stringify({ name: 'A', shelf: 'S', text: 'x'.repeat(120 * 2 ** 20) }),
  },
  {
    name: 'a column said to be nothing',
    path: `${source}/settings`,
    method: 'PUT',
    body: { settings: { relations: [], columns: { 'invoices.total': null }, calculated: [] } },
  },
  {
    name: 'a column said to be five',
    path: `${source}/settings`,
    method: 'PUT',
    body: { settings: { relations: [], columns: { 'invoices.total': 5 }, calculated: [] } },
  },
  {
    name: 'decimals said away',
    path: `${source}/settings`,
    method: 'PUT',
    body: { settings: { relations: [], columns: { 'invoices.total': { scale: 0 } }, calculated: [] } },
  },
  {
    name: 'a billion decimals',
    path: `${source}/settings`,
    method: 'PUT',
    body: { settings: { relations: [], columns: { 'invoices.total': { scale: 1e9 } }, calculated: [] } },
  },
  {
    name: 'no known type',
    path: `${source}/settings`,
    method: 'PUT',
    body: { settings: { relations: [], columns: { 'invoices.total': { type: 'money' } }, calculated: [] } },
  },
  {
    name: 'a format that prints nothing',
    path: `${source}/settings`,
    method: 'PUT',
    body: { settings: { relations: [], columns: { 'invoices.total': { format: "'".repeat(51) } }, calculated: [] } },
  },
  {
    name: 'a field called as a column is',
    path: `${source}/settings`,
    method: 'PUT',
    body: { settings: { relations: [], columns: {}, calculated: [{ table: 'invoices', name: 'total', formula: '1' }] } },
  },
  { name: 'unknown route', path: '/api/nowhere', method: 'GET' },
  { name: 'unknown route deep down', path: '/api/reports/x/y/z/w', method: 'GET' },
  { name: 'a wrong method', path: '/api/library', method: 'DELETE' },
  { name: 'another wrong method', path: '/api/rows', method: 'GET' },
  { name: 'a refresh address that is none', path: '/refresh/nowhere/deep', method: 'GET' },
  { name: 'a refresh address of the prototype', path: '/refresh/toString.csv', method: 'GET' },
  { name: 'an address that is not written as one', path: '/api/reports/%E0%A4%A', method: 'GET' },
  { name: 'NUL in an address', path: '/api/reports/%00', method: 'GET' },
  { name: 'half a character in an address', path: '/api/reports/%ED%A0%80', method: 'GET' },
  { name: 'pages of nowhere', path: `/api/runs/${id}/pages?from=-1&to=x`, method: 'GET' },
  { name: 'twice in an address', path: `/api/reports/${id}?which=a&which=b`, method: 'GET' },
  { name: 'a version of words', path: `/api/reports/${id}/versions/tomato`, method: 'GET' },
  { name: 'a version beyond all', path: `/api/reports/${id}/versions/99999999999999999999`, method: 'GET' },
  { name: 'another host', path: '/api/library', method: 'GET', headers: { host: 'evil.example' }, harmless: true },
  {
    name: 'embedded from another port',
    path: '/api/library',
    method: 'GET',
    headers: { 'sec-fetch-site': 'same-site', 'sec-fetch-mode': 'no-cors' },
  },
  { name: 'a source that is not there', path: '/api/sources/nowhere/catalog', method: 'GET' },
  { name: 'a table of the prototype', path: `${source}/tables/toString`, method: 'GET' },
]
for (const each of single) {
  await attack(each)
  await othersServed()
}
// pictures, patterns and texts within definitions
const picture = (svg: string) => {
  const own = JSON.parse(JSON.stringify(salesInvoice())) as ReturnType<typeof salesInvoice>
  own.layouts[0]!.top!.items.push({ kind: 'image', id: 'attack', x: 0, y: 0, width: 50, height: 50, svg } as never)
  return { definition: own, answers: month, limit: 5 }
}
const svg = (inside: string) => `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10">${inside}</svg>`
for (const [name, text] of [
  ['a path that never ends', svg('<path d="M0 0Z5"/>')],
  ['a script', svg('<script>alert(1)</script>')],
  ['entities', `<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;&a;">]>${svg('<text>&b;</text>')}`],
  ['groups 5,000 deep', svg(`${'<g>'.repeat(5000)}${'</g>'.repeat(5000)}`)],
  ['a million steps', svg(`<path d="M0 0${'L1 1'.repeat(20_000)}"/>`)],
  ['no picture', 'tomato'],
  ['no bitmap', 'data:image/png;base64,AAAA'],
] as const)
  await attack({ name: `a picture: ${name}`, path: '/api/rows', body: picture(text), harmless: true })
for (const pattern of [
  "'".repeat(51),
  '#'.repeat(5000),
  '0'.repeat(5000),
  ';'.repeat(5000),
  `${'%'.repeat(3000)}0`,
  '¤'.repeat(4000),
  'qqqqqqqq',
]) {
  await attack({ name: `a pattern ${pattern.slice(0, 6)}…`, path: '/api/rows', body: withText(`{{ total | ${pattern} }}`), harmless: true })
  await othersServed()
}
// texts of authors, one after another and beside others
const texts = [
  'select count(*) as a from generate_series(1, 2000000000) as n',
  `with recursive r(n) as (select 1 union all select n + 1 from r) select count(*) as a from r`,
  `select '${'['.repeat(200_000)}'::json as a`,
  `select regexp_replace(repeat('a', 30), '(a*)*(a*)*b', '') as a`,
  `with ${Array.from({ length: 1000 }, (_, at) => `c${at} as (select ${at ? `a from c${at - 1}` : '1 as a'})`).join(', ')}
    select a from c999`,
  `select ${'('.repeat(5000)}1${')'.repeat(5000)} as a`,
  'select pg_advisory_lock_shared(1) as a',
  'select rolname as a from pg_roles',
  'commit; delete from invoices',
]
for (const text of texts) {
  const own = JSON.parse(JSON.stringify(register)) as typeof register
  own.tables = [{ kind: 'sql', name: 'attack', text, key: [], columns: [{ name: 'a', type: 'text', databaseType: 'text' }] }]
  own.dataSets[0]!.root = { name: 'attacked', table: '@attack', on: [], fields: ['a'], related: [], details: [], filters: [], sort: [] }
  own.layouts = [{ ...own.layouts[0]!, blocks: [] }]
  delete own.layouts[0]!.top
  delete own.layouts[0]!.foot
  const stop = new AbortController()
  const running = server
    .ask('/api/rows', { method: 'POST', body: { definition: own, answers: {}, limit: 5 }, signal: stop.signal })
    .then(async answer => ({ status: answer.status, text: await answer.text() }))
    .catch(() => undefined)
  count++
  await new Promise(resolve => setTimeout(resolve, 300))
  // somebody else reads beside it, and is served in the time of a text's turn
  const begun = performance.now()
  const other = await fetch(`${server.url}/api/choices`, {
    method: 'POST',
    headers: { origin: server.url, 'content-type': 'application/json', cookie: 'estante-visitor=somebody-else' },
    body: JSON.stringify({ report: 'Sales invoice', answers: {}, parameter: 'customer' }),
  })
  await other.arrayBuffer()
  if (!other.ok || performance.now() - begun > 35_000)
    through.push(`a text keeps others waiting: ${text.slice(0, 40)} ${other.status} ${Math.round(performance.now() - begun)} ms`)
  stop.abort()
  const found = await running
  if (found && found.status >= 500) through.push(`a text: ${found.status} ${text.slice(0, 40)} ${found.text.slice(0, 100)}`)
}
// no HTTP at all
await new Promise<void>(resolve => {
  const socket = connect(Number(new URL(server.url).port), '127.0.0.1', () => socket.write('tomato\r\n\r\n'))
  socket.on('close', () => resolve())
  socket.on('error', () => resolve())
  setTimeout(() => {
    socket.destroy()
    resolve()
  }, 3000)
})
count++
await othersServed()
const alive = server.process.exitCode === null
// all is as it was: the company's figures, and the library opens
const order = await server.ask('/api/order', {
  method: 'POST',
  body: { report: 'Sales invoice', answers: month, output: { format: 'pdf' } },
})
if (!order.ok) through.push(`a good order fails after all: ${(await order.text()).slice(0, 200)}`)
else await order.arrayBuffer()
await server.stop()
end('attack', alive && !through.length, `${count} attacks, ${through.length} through${alive ? '' : ', and the server DIED'}`)
