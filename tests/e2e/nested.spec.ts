import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { clickCell, copyOf, expect, ours, pageText, pdfText, reportId, test } from './support'

test('a report is nested by the keyboard: chosen from the library, its parameter answered by itself, and run', async ({ page }) => {
  const id = await copyOf(page, 'Salesperson sheets', 'Sheets with registers')
  await page.goto(`/reports/${id}/page`)
  await expect(pageText(page)).toContainText('Salesperson sheet')
  await page.getByRole('button', { name: 'Add', exact: true }).focus()
  await page.keyboard.press('Enter')
  await page.keyboard.type('nested')
  await page.keyboard.press('Enter')
  const picker = page.getByRole('dialog', { name: 'Nest a report' })
  await expect(picker.getByRole('option', { name: 'Invoice register' })).toBeVisible()
  await page.keyboard.type('invoice reg')
  await page.keyboard.press('Enter')
  const panel = page.getByLabel('Settings of the selection')
  await expect(panel.locator('[data-feed="salesperson"] input')).toHaveValue('id')
  await expect(panel).toContainText('register.invoiced')
  // it stands after what is there already, and its total is the last thing of a salesperson
  const all = async () => (await page.locator('[data-page-text]').allTextContents()).join('\n')
  const down = async () => {
    await page.mouse.move(640, 420)
    await page.mouse.wheel(0, 900)
  }
  await down()
  await expect.poll(all).toContain('Company currency')
  await page.getByRole('button', { name: 'Run', exact: true }).click()
  // what is not there yet cannot be scrolled to
  await expect(page.locator('[data-run-count]')).toContainText(/\d pages/, { timeout: 20_000 })
  await down()
  await expect.poll(all, { timeout: 20_000 }).toContain('Company currency')
})

test('a report cannot be nested in itself, and what nests it is said before it goes', async ({ page }) => {
  const register = await reportId(page, 'Invoice register')
  const within = await reportId(page, 'Registers by salesperson')
  const refused = await page.request.get(`/api/nested/${within}?within=${register}`)
  expect(refused.status()).toBe(422)
  expect(((await refused.json()) as { message: string }).message).toMatch(
    /would be nested in itself: “Invoice register” → “Registers by salesperson” → “Invoice register”/,
  )
  const uses = (await (await page.request.get(`/api/reports/${register}/uses`)).json()) as { nestedIn: string[] }
  expect(uses.nestedIn).toContain('Registers by salesperson')
})

test('registers by salesperson: selected by the mouse, and the same in a PDF and a workbook that another program reads', async ({
  page,
}) => {
  const id = await reportId(page, 'Registers by salesperson')
  await page.goto(`/reports/${id}/page`)
  await expect(pageText(page)).toContainText('EUR invoiced')
  await clickCell(page, 'Company currency')
  await expect(page.getByLabel('Settings of the selection')).toContainText('Invoice register')
  const run = (await (
    await page.request.post('/api/runs', { ...ours, data: { report: 'Registers by salesperson', answers: {} } })
  ).json()) as { id: string }
  await expect
    .poll(async () => ((await (await page.request.get(`/api/runs/${run.id}`)).json()) as { state: string }).state, { timeout: 60_000 })
    .toBe('done')
  const folder = mkdtempSync(join(tmpdir(), 'estante-test-'))
  const save = async (format: string) => {
    const path = join(folder, `registers.${format}`)
    writeFileSync(path, await (await page.request.get(`/api/runs/${run.id}/file?format=${format}`)).body())
    return path
  }
  const printed = pdfText(await save('pdf'))
  const invoiced = printed.flatMap(each => [...each.matchAll(/(−?[\d,]+\.\d\d) EUR invoiced/g)].map(([, amount]) => amount!))
  const cents = (text: string) => Math.round(Number(text.replaceAll(',', '').replace('−', '-')) * 100)
  const book = await save('xlsx')
  execFileSync('soffice', ['--headless', `-env:UserInstallation=file://${folder}/office`, '--convert-to', 'csv', '--outdir', folder, book])
  const sheet = readFileSync(book.replace('.xlsx', '.csv'), 'utf8')
  // what the registers come to on their pages is what the workbook says at its end
  const all = sheet
    .split('\n')
    .filter(line => /^All,/.test(line.replace(/^,+/, '')))
    .at(-1)!
  const sum = invoiced.reduce((total, each) => total + cents(each), 0)
  expect(invoiced.length).toBeGreaterThan(8)
  expect(all.match(/-?[\d.]+/g)!.map(each => Math.round(Number(each) * 100))).toContain(sum)
})
