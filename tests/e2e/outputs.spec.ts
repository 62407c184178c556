import { readFileSync } from 'node:fs'
import { strFromU8, unzipSync } from 'fflate'
import Papa from 'papaparse'
import { copyOf, expect, ours, pageText, reportId, test } from './support'

test('ages are a setting: another edge and label, and the tables of the page follow', async ({ page }) => {
  const id = await copyOf(page, 'Customer ageing', 'Ages changed')
  await page.goto(`/reports/${id}/data`)
  await page.locator('[data-ages="age"]').click()
  const panel = page.locator('[data-ageing]')
  await panel.getByLabel('Upper edge of column 4').fill('60')
  await expect(panel.getByRole('alert')).toContainText('The column “61–90” ends at 60 days, which is not beyond “31–60” before it.')
  await expect(panel.getByRole('button', { name: 'Change', exact: true })).toBeDisabled()
  await panel.getByLabel('Upper edge of column 4').fill('120')
  await panel.getByLabel('Label of column 4').fill('61–120')
  await panel.getByLabel('Label of column 5').fill('Older')
  await panel.getByRole('button', { name: 'Change', exact: true }).click()
  await expect(page.locator('[data-detail="items"] thead')).toContainText('61–120')
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
  await page.getByRole('link', { name: 'Page', exact: true }).click()
  await expect(pageText(page)).toContainText('61–120')
  await expect(pageText(page)).toContainText('Older')
  await expect(pageText(page)).not.toContainText('Over 90')
  await expect(page.locator('[data-notice="dates"]')).toContainText('no date of their own to be aged by')
})

test('open items of suppliers from an empty report, aged, and read by its first level', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('link', { name: 'New report' }).click()
  await page.getByLabel('Find a table by name, comment or value').fill('suppliers')
  await page.locator('[data-table="suppliers"]').click()
  await page.getByLabel('Name of the report').fill('Open bills by hand')
  await page.getByRole('button', { name: 'Start with this table' }).click()
  await expect(page).toHaveURL(/\/reports\//)
  const id = /reports\/([\w-]+)/.exec(page.url())![1]!
  await page.goto(`/reports/${id}/data`)
  await page.getByRole('button', { name: 'data set' }).click()
  await page.getByRole('menuitem', { name: 'Open items as of a date' }).click()
  const panel = page.locator('[data-open-items]')
  await panel.getByLabel('Documents and money').click()
  await page.getByRole('option', { name: /Supplier bills and Payments of suppliers/ }).click()
  await expect(panel.locator('[data-part="payments"]')).toContainText('used up by amount')
  await panel.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(page.locator('[data-nested] thead').first()).toContainText('Over 90')
  await expect(page.locator('[data-row-count]')).toContainText(/\d/)
  await page.getByRole('tab', { name: 'Main' }).click()
  await page
    .getByRole('button', { name: /^Menu of/ })
    .first()
    .click()
  await page.getByRole('menuitem', { name: 'Read from another table' }).click()
  await page
    .getByRole('option', { name: /Open items/ })
    .first()
    .click()
  await expect(page.locator('[data-nested] thead').first()).toContainText('Kind')
})

test('a run is taken away as a spreadsheet and as CSV, as asked', async ({ page }) => {
  await page.goto(`/run/${await reportId(page, 'Supplier ageing')}`)
  await expect(page.locator('[data-run-count]')).toBeVisible({ timeout: 60_000 })
  await page.getByRole('button', { name: 'Download as …' }).click()
  const menu = page.locator('[data-download]')
  let coming = page.waitForEvent('download')
  await menu.getByRole('button', { name: 'Download' }).click()
  const book = await coming
  expect(book.suggestedFilename()).toMatch(/^Supplier ageing .*\.xlsx$/)
  const parts = unzipSync(new Uint8Array(readFileSync(await book.path())))
  expect(strFromU8(parts['xl/worksheets/sheet1.xml']!)).toContain('<f>SUBTOTAL(9,')
  await page.getByRole('button', { name: 'Download as …' }).click()
  await menu.getByRole('tab', { name: 'CSV', exact: true }).click()
  await menu.getByLabel('Between fields').click()
  await page.getByRole('option', { name: 'semicolon' }).click()
  coming = page.waitForEvent('download')
  await menu.getByRole('button', { name: 'Download' }).click()
  const csv = await coming
  const rows = Papa.parse<string[]>(readFileSync(await csv.path(), 'utf8').slice(1), { delimiter: ';', newline: '\r\n' }).data
  expect(rows[0]).toContain('booked_open')
  expect(rows.length).toBeGreaterThan(100)
})

test('a refresh address gives the rows to whoever has it, until it is taken back', async ({ page }) => {
  await page.goto(`/run/${await reportId(page, 'Reorder list')}`)
  await expect(page.locator('[data-run-count]')).toBeVisible({ timeout: 60_000 })
  await page.getByRole('button', { name: 'Refresh addresses for a spreadsheet' }).click()
  const panel = page.locator('[data-refresh]')
  await panel.getByLabel('For').fill('Buying workbook')
  await panel.getByRole('button', { name: 'Make an address' }).click()
  const address = await panel.getByLabel('The new address').inputValue()
  expect(address).toMatch(/\/refresh\/[\w-]{40,}\.csv$/)
  const answer = await page.request.get(address)
  expect(answer.headers()['content-type']).toContain('text/csv')
  const rows = Papa.parse<Record<string, string>>(await answer.text(), { header: true, newline: '\r\n' }).data.filter(row => row.on_hand)
  const run = (await (await page.request.post('/api/runs', { ...ours, data: { report: 'Reorder list', answers: {} } })).json()) as {
    id: string
  }
  await expect
    .poll(async () => ((await (await page.request.get(`/api/runs/${run.id}`)).json()) as { state: string }).state, { timeout: 60_000 })
    .toBe('done')
  const json = (await (await page.request.get(`/api/runs/${run.id}/file?format=json&level=stock`)).json()) as object[]
  expect(rows).toHaveLength(json.length)
  await panel.getByRole('button', { name: 'Close' }).click()
  await page.getByRole('button', { name: 'Refresh addresses for a spreadsheet' }).click()
  await expect(panel).toContainText('read once')
  await expect(panel).not.toContainText(address)
  await panel.getByRole('button', { name: 'Take back' }).click()
  await expect(panel).toContainText('taken back')
  const refused = await page.request.get(address)
  expect(refused.status()).toBe(410)
  expect(((await refused.json()) as { message: string }).message).toBe(
    'This refresh address was taken back; ask the report’s author for a new one.',
  )
})

test('a run goes on when it is left, and is found again under Runs', async ({ page }) => {
  const id = await reportId(page, 'Statement of account')
  await page.goto(`/run/${id}`)
  await expect(pageText(page)).toContainText('Balance brought forward', { timeout: 60_000 })
  await page.getByRole('link', { name: 'Estante, to the library' }).click()
  await page.getByRole('link', { name: 'Runs', exact: true }).click()
  const row = page.locator('[data-runs] tbody tr').filter({ hasText: 'Statement of account' }).first()
  await expect(row).toHaveAttribute('data-state', 'done', { timeout: 60_000 })
  const count = Number((await row.locator('td').nth(3).innerText()).replaceAll(',', ''))
  expect(count).toBeGreaterThan(100)
  const before = ((await (await page.request.get('/api/runs')).json()) as { runs: unknown[] }).runs.length
  await row.getByRole('link', { name: 'Statement of account', exact: true }).click()
  await expect(page.locator('[data-run-count]')).toContainText(`${count.toLocaleString('en')} pages`)
  await expect(pageText(page)).toContainText('Balance brought forward')
  expect(((await (await page.request.get('/api/runs')).json()) as { runs: unknown[] }).runs.length).toBe(before)
})
