import type { BrowserContext, Page } from '@playwright/test'
import type { ReportDefinition } from '../../core/definition/report'
import { type OwnServer, ownServer } from './ownServer'
import { expect, pick, test } from './support'

let server: OwnServer
let own = ''
test.beforeAll(async () => {
  test.setTimeout(180_000)
  server = ownServer('4797', { ESTANTE_DEMO: 'on' })
  own = server.address
  await server.said(/Estante is ready/)
})
test.afterAll(() => server.end())

/** Signs one of the demo's people in with a click. */
async function enter(context: BrowserContext, name: string): Promise<Page> {
  const page = await context.newPage()
  await page.goto(own)
  await page.getByRole('button', { name: new RegExp(name) }).click()
  await expect(page.locator('[data-account]')).toBeVisible()
  return page
}
/** The report's card in the library. */
const card = (page: Page, name: string) => page.getByRole('link', { name, exact: true })

test('an author publishes to a team and a second person releases it, while a reader looks', async ({ browser }) => {
  const [forAdministrator, forAuthor, forReader, forOther] = await Promise.all(Array.from({ length: 4 }, () => browser.newContext()))
  const administrator = await enter(forAdministrator!, 'Inês Moura')
  const author = await enter(forAuthor!, 'Rui Paiva')
  const reader = await enter(forReader!, 'Tomás Vaz')
  const other = await enter(forOther!, 'Lídia Brito')

  // the administrator wants a second person on a shelf
  await administrator.getByLabel('Menu of the shelf Invoicing').click()
  await administrator.getByRole('menuitemcheckbox', { name: 'A second person releases' }).click()
  await expect(administrator.locator('[data-shelf="Invoicing"]')).toContainText('a second person releases')

  // the author publishes to North Quay alone
  await author.getByLabel('Menu of Invoice register').click()
  await author.getByRole('menuitem', { name: 'Who runs and edits it' }).click()
  const panel = author.locator('[data-audience]')
  await pick(panel.getByLabel('Who runs it'), 'teams')
  await panel.getByLabel('Teams that run it').click()
  await author.getByRole('option', { name: 'North Quay' }).click()
  await author.keyboard.press('Escape')
  await expect(panel.getByLabel('Teams that run it')).toContainText('North Quay')
  await author.keyboard.press('Escape')
  await reader.reload()
  await expect(card(reader, 'Invoice register')).toBeVisible()
  await other.reload()
  await expect(card(other, 'Sales invoice')).toBeVisible()
  await expect(card(other, 'Invoice register')).toBeHidden()

  // a change of the author's waits, and readers run what was published before
  await author.goto(own)
  await card(author, 'Invoice register').click()
  await expect(author).toHaveURL(/\/page$/)
  const id = /reports\/([^/]+)\//.exec(author.url())![1]!
  const { definition, version } = (await (await author.request.get(`${own}/api/reports/${id}`)).json()) as {
    definition: ReportDefinition
    version: number
  }
  definition.parameters.push({ name: 'note', label: 'Note', kind: 'text', required: false })
  const saved = await author.request.put(`${own}/api/reports/${id}`, { headers: { origin: own }, data: { basedOn: version, definition } })
  expect(saved.ok()).toBe(true)
  await author.reload()
  await expect(author.getByRole('button', { name: 'Publish', exact: true })).toBeEnabled()
  await author.getByRole('button', { name: 'Publish', exact: true }).click()
  await expect(author.getByText(/waits for a second person/).first()).toBeVisible()
  await administrator.goto(own)
  await administrator.getByRole('button', { name: /version \d+ waits/ }).click()
  const waiting = administrator.locator('[data-waiting]')
  await expect(waiting).toContainText('Rui Paiva asked for it')
  await expect(waiting.getByRole('listitem').first()).toContainText(/[Pp]arameter/)
  await waiting.getByRole('button', { name: 'Release' }).click()
  await expect(waiting).toBeHidden()
  await expect(administrator.locator('[data-audience]')).toContainText('released by Inês Moura')

  // each sees the invoices of their own branch only
  for (const [page, branch, hidden] of [
    [reader, 'North Quay', 'Island Depot'],
    [other, 'Island Depot', 'North Quay'],
  ] as const) {
    await page.goto(own)
    await card(page, 'Customer ageing').click()
    await expect(page.locator('[data-page="0"] [data-page-text]')).not.toBeEmpty({ timeout: 60_000 })
    const found = await page.request.post(`${own}/api/order`, {
      headers: { origin: own },
      data: { report: 'Sales invoice', answers: { month: '2026-09' }, output: { format: 'json' } },
    })
    const text = await found.text()
    expect([found.status(), text.includes(branch), text.includes(hidden)]).toEqual([200, true, false])
  }

  // looking as a team, an author sees what it sees, and is told so
  await author.goto(own)
  await author.locator('[data-account]').click()
  await author.getByRole('menuitem', { name: 'Look as a team' }).click()
  await author.getByRole('menuitem', { name: 'Island Depot' }).click()
  await expect(author.getByText('You look as Island Depot does')).toBeVisible()
  const as = await author.evaluate(async () => {
    const id = (JSON.parse(sessionStorage.getItem('estante look as')!) as { id: string }).id
    return (await (await fetch('/api/sources/caisvelho/tables/branches', { headers: { 'x-estante-as': id } })).text()).includes(
      'North Quay',
    )
  })
  expect(as).toBe(false)
  await author.getByRole('button', { name: 'As myself again' }).click()
  await expect(author.getByText('You look as Island Depot does')).toBeHidden()

  // a guard that is kept while somebody works holds at once
  await administrator.goto(`${own}/guards`)
  await administrator.getByRole('button', { name: /North Quay/ }).click()
  const guard = administrator.locator('[data-guard="branches records"]')
  await expect(guard.getByRole('status')).toHaveText('sees 1 of 3 branches')
  await guard.locator('.cm-content').click()
  await administrator.keyboard.press('ControlOrMeta+a')
  await administrator.keyboard.type('code = "ZZ"')
  await expect(guard.getByRole('status')).toHaveText('sees 0 of 3 branches')
  await administrator.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(administrator.getByText('The guards hold from now on.').first()).toBeVisible()
  const rows = await reader.request.post(`${own}/api/order`, {
    headers: { origin: own },
    data: { report: 'Customer ageing', answers: {}, output: { format: 'json' } },
  })
  expect((await rows.text()).length).toBeLessThan(2000)
  for (const context of [forAdministrator, forAuthor, forReader, forOther]) await context!.close()
})

test('a second factor is set up, asked for, and taken away with a recovery code', async ({ browser }) => {
  const context = await browser.newContext()
  const administrator = await enter(context, 'Inês Moura')
  await administrator.goto(`${own}/people`)
  await administrator.getByRole('button', { name: 'Add a person' }).click()
  const form = administrator.locator('[data-new-person]')
  await form.getByLabel('Name', { exact: true }).fill('Sofia Marques')
  await form.getByLabel('Signs in as').fill('sofia')
  await form.getByLabel('First password').fill('four boats in the fog')
  await form.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(administrator.locator('[data-person="sofia"]')).toBeVisible()

  const own2 = await browser.newContext()
  const page = await own2.newPage()
  const signIn = async () => {
    await page.goto(`${own}/sign-in`)
    await page.getByLabel('Name', { exact: true }).fill('sofia')
    await page.getByLabel('Password', { exact: true }).fill('four boats in the fog')
    await page.keyboard.press('Enter')
  }
  await signIn()
  await expect(page.locator('[data-account]')).toHaveText('SM')
  await page.goto(`${own}/account`)
  await page.getByRole('button', { name: 'Set it up' }).click()
  const second = page.locator('[data-second]')
  const secret = (await second.locator('[data-secret]').textContent())!.trim()
  const { TOTP, Secret } = await import('otpauth')
  const code = (ahead = 0) => new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: Date.now() + ahead * 30_000 })
  await second.getByLabel('Code').fill('000000')
  await second.getByRole('button', { name: 'It works' }).click()
  await expect(second.getByRole('alert')).toContainText('The code is not right')
  await second.getByLabel('Code').fill(code())
  await second.getByRole('button', { name: 'It works' }).click()
  await expect(second.locator('[data-recovery] li')).toHaveCount(10)
  const recovery = await second.locator('[data-recovery] li').allTextContents()

  await page.request.delete(`${own}/api/session`, { headers: { origin: own } })
  await signIn()
  await page.getByLabel('Code').fill(code(1))
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-account]')).toHaveText('SM')
  await page.goto(`${own}/account`)
  await second.getByRole('button', { name: 'Take it away' }).click()
  await second.getByLabel('Your password').fill('four boats in the fog')
  await second.getByLabel('Code or recovery code').fill(recovery[0]!)
  await second.getByRole('button', { name: 'Take it away' }).click()
  await expect(second).toContainText('None. With one')
  await context.close()
  await own2.close()
})
