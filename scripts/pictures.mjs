// Takes the pictures of the README anew, from the demo company, in headless Chromium: `node scripts/pictures.mjs [name …]`.
import { spawn } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { chromium } from '@playwright/test'

const port = 4792
const base = `http://127.0.0.1:${port}`
const root = new URL('..', import.meta.url).pathname
const shots = join(root, 'docs/screenshots')
const wanted = process.argv.slice(2)
const server = spawn('node', [join(root, 'tests/e2e/server.mjs'), String(port)], {
  cwd: root,
  env: { ...process.env, ESTANTE_PEOPLE: 'demo', TMPDIR: mkdtempSync(join(tmpdir(), 'estante-pictures-')) },
  stdio: ['ignore', 'ignore', 'inherit'],
})
/** Signs the demo's administrator in, once the server answers; comes back with the cookie. */
async function ready() {
  for (let tries = 0; tries < 600; tries++) {
    const me = await fetch(`${base}/api/me`).then(
      answer => answer.json(),
      () => undefined,
    )
    const person = me?.demo?.find(each => each.role === 'administrator')
    if (person) {
      const answer = await fetch(`${base}/api/session/demo`, {
        method: 'POST',
        headers: { origin: base, 'content-type': 'application/json' },
        body: JSON.stringify({ person: person.id }),
      })
      return answer.headers.getSetCookie()[0].split(';')[0]
    }
    await new Promise(resolve => setTimeout(resolve, 200))
  }
  throw new Error('The server does not answer.')
}
const cookie = await ready()
const reports = (await (await fetch(`${base}/api/library`, { headers: { cookie } })).json()).flatMap(shelf => shelf.reports)
const idOf = name => reports.find(each => each.name === name).id
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] })

/** Where a text stands on a page of the sheet, in pixels of the window. */
async function place(page, text, index = 0) {
  const at = await page.evaluate(
    ({ text, index }) => {
      const drawn = globalThis.estanteSheet().pages.get(index)
      const item = drawn.items.find(each => each.kind === 'text' && each.text === text)
      return { x: (item.x + 3) / drawn.width, y: (item.y - item.size / 3) / drawn.width }
    },
    { text, index },
  )
  const frame = await page.locator(`[data-page="${index}"]`).boundingBox()
  return { x: frame.x + at.x * frame.width, y: frame.y + at.y * frame.width }
}
const click = async (page, text) => {
  const { x, y } = await place(page, text)
  await page.mouse.click(x, y)
}
const shown = page => page.locator('[data-page="0"] [data-page-text]').first().waitFor({ state: 'attached' })
/** Opens an address and waits until nothing moves any more. */
async function open(page, path, sheet = false) {
  await page.goto(base + path)
  if (sheet) await shown(page)
  await page.waitForLoadState('networkidle')
  await page.waitForTimeout(1500)
}
const figure = (page, line, column) => page.getByRole('button', { name: `Trace ${line}, ${column}` })

const pictures = {
  library: page => open(page, '/'),
  data: page => open(page, `/reports/${idOf('Sales invoice')}/data`),
  parameters: page => open(page, `/reports/${idOf('Sales invoice')}/parameters`),
  sources: page => open(page, '/sources'),
  page: page => open(page, `/reports/${idOf('Sales invoice')}/page`, true),
  run: page => open(page, `/run/${idOf('Sales invoice')}?month=2026-09`, true),
  async trace(page) {
    await open(page, `/reports/${idOf('Top ten customers')}/page`, true)
    await click(page, 'Sales, EUR')
    await page.keyboard.press('ArrowDown')
    await page.keyboard.press('t')
  },
  async guards(page) {
    await page.emulateMedia({ colorScheme: 'dark' })
    await open(page, '/guards')
    await page.getByRole('button', { name: /North Quay/ }).click()
    await page.evaluate(() => document.documentElement.classList.add('dark'))
    await page.waitForTimeout(3000)
  },
  ageing: page => open(page, `/run/${idOf('Customer ageing')}`, true),
  reorder: page => open(page, `/run/${idOf('Reorder list')}`, true),
  async statement(page) {
    await open(page, `/run/${idOf('Income statement')}`, true)
    await figure(page, 'Services', 'actual').click()
    await page.locator('[data-trace-lines]').waitFor()
  },
  async trend(page) {
    await open(page, `/reports/${idOf('Income statement trend')}/page`, true)
    await click(page, 'Gross profit')
  },
  tieout: async page => {
    await open(page, `/reports/${idOf('Balance sheet')}/tieout`)
    await page.locator('[data-tie]').first().click()
  },
  desk: page => open(page, '/desk'),
  async chart(page) {
    await open(page, `/reports/${idOf('Income statement trend')}/page`, true)
    const frame = await page.locator('[data-page="0"]').boundingBox()
    const at = await page.evaluate(() => {
      const drawn = globalThis.estanteSheet().pages.get(0)
      const box = drawn.boxes.find(each => each.block.startsWith('chart'))
      return box && { x: (box.x + box.width / 2) / drawn.width, y: (box.y + box.height / 2) / drawn.width }
    })
    await page.mouse.click(frame.x + at.x * frame.width, frame.y + at.y * frame.width)
  },
  async changes(page) {
    const run = async () => {
      await open(page, `/run/${idOf('Income statement')}`, true)
    }
    await run()
    await page.request.post(`${base}/api/sources/caisvelho/desk/documents`, {
      headers: { origin: base },
      data: {
        kind: 'entry',
        entry: {
          date: '2026-10-20',
          description: 'Paint for the quay',
          lines: [
            { account: '6150', branch: 'NQ', debit: '1240.00' },
            { account: '1010', branch: 'NQ', credit: '1240.00' },
          ],
        },
      },
    })
    await run()
    await open(page, '/runs')
    await page.getByRole('link', { name: 'What changed' }).first().click()
    await shown(page)
  },
  async swap(page) {
    // invented rows that stand in for the invoices, under names of their own
    const rows = Array.from(
      { length: 14 },
      (_, at) => `B-${100 + at},2026-10-${String(at + 1).padStart(2, '0')},${at % 2 ? 'EUR' : 'GBP'},${120 + at * 31}.25,${24 + at * 6}.80`,
    )
    await page.goto(base)
    const headers = { origin: base }
    const sent = await page.request.post(`${base}/api/intake?name=invoice_book.csv`, {
      headers: { ...headers, 'content-type': 'application/octet-stream' },
      data: Buffer.from(['Number,Invoice dt,Ccy,Total,Tax total', ...rows].join('\n')),
    })
    const [{ id: brought }] = await sent.json()
    await page.request.post(`${base}/api/sources`, { headers, data: { name: 'Stand-in rows', files: [{ id: brought }] } })
    await open(page, '/new')
    await page.getByLabel('Source', { exact: true }).click()
    await page.getByRole('option', { name: 'Stand-in rows' }).click()
    await page.getByText('Invoice book', { exact: true }).first().click()
    await page.getByRole('button', { name: 'Start with this table' }).click()
    await page.getByRole('link', { name: 'Swap source' }).click()
    await page.getByLabel('The other source').click()
    await page.getByRole('option', { name: 'Cais Velho' }).click()
    await page.locator('[data-match]').first().waitFor()
    await page.getByRole('button', { name: 'Prove it' }).click()
    await page.locator('[data-proof]').waitFor({ timeout: 60_000 })
    await page.mouse.move(600, 700)
  },
  async pack(page) {
    await open(page, '/packs')
    await page.getByRole('button', { name: 'Dry run of Month end' }).click()
    await page.locator('[data-deliveries]').waitFor({ timeout: 120_000 })
    await page.waitForTimeout(1500)
  },
  runs: page => open(page, '/runs'),
  async books(page) {
    await open(page, '/sources')
    await page.getByRole('button', { name: 'The books' }).click()
    await page.getByRole('list', { name: 'Checks' }).waitFor()
  },
}
let failed = 0
try {
  for (const [name, take] of Object.entries(pictures)) {
    if (wanted.length && !wanted.includes(name)) continue
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
    const [key, value] = cookie.split('=')
    await page.context().addCookies([{ name: key, value, url: base }])
    try {
      await take(page)
      await page.waitForTimeout(1500)
    } catch (error) {
      failed++
      console.error(`${name}: ${error.message.split('\n')[0]}`)
    }
    await page.screenshot({ path: join(shots, `${name}.png`) })
    await page.close()
  }
} finally {
  await browser.close()
  server.kill('SIGTERM')
}
process.exitCode = failed ? 1 : 0
