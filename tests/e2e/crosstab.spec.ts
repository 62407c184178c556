import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import { cellPlace, clickCell, copyOf, expect, ours, pageText, pdfText, pick, reportId, test } from './support'

test('a crosstab by the keyboard: put on the page, swapped, moved, with a figure more, and run', async ({ page }) => {
  const id = await copyOf(page, 'Top ten customers', 'Grid by hand')
  await page.goto(`/reports/${id}/page`)
  await expect(pageText(page)).toContainText('All others')
  await page.getByRole('button', { name: 'Add', exact: true }).focus()
  await page.keyboard.press('Enter')
  await page.keyboard.type('crosstab')
  await page.keyboard.press('Enter')
  await expect(pageText(page)).toContainText('Total in EUR · Month')
  const panel = page.getByLabel('Settings of the selection')
  const [rows, columns] = [panel.locator('[data-axis="rows"] [data-group]'), panel.locator('[data-axis="columns"] [data-group]')]
  await expect(rows).toHaveText([/Customer/])
  await expect(columns).toHaveText([/Month/])
  await panel.getByRole('button', { name: 'Swap' }).press('Enter')
  await expect(pageText(page)).toContainText('Total in EUR · Customer')
  await expect(rows).toHaveText([/Month/])
  // the customers join the months at the left, and nothing is across: the total alone
  await columns.first().getByRole('button', { name: 'Customer down the left' }).press('Enter')
  await expect(rows).toHaveText([/Month/, /Customer/])
  await expect(columns).toHaveCount(0)
  await expect(pageText(page)).toContainText(/Month\s+Customer\s+Total in EUR/)
  await pick(panel.getByLabel('A figure more'), 'How many records')
  await expect(panel.locator('[data-measure]')).toHaveText([/Total in EUR/, /Count/])
  await panel.locator('[data-group="invoice_date"] summary').press('Enter')
  await pick(panel.getByLabel('Total over Month'), 'before them')
  await page.getByRole('button', { name: 'Run', exact: true }).click()
  await expect(pageText(page)).toContainText('Count')
  await expect(pageText(page)).toContainText('Total')
})

/** A place of a text within its page. */
async function within(page: Page, text: string): Promise<{ x: number; y: number }> {
  const [at, frame] = [await cellPlace(page, text), (await page.locator('[data-page="0"]').boundingBox())!]
  return { x: at.x - frame.x, y: at.y - frame.y }
}

test('a crosstab by the mouse: a group dragged to the other axis, a figure shaded, the records behind a total', async ({ page }) => {
  const id = await copyOf(page, 'Sales grid', 'Grid by mouse')
  await page.goto(`/reports/${id}/page`)
  await expect(pageText(page)).toContainText('Sales, EUR · Category')
  await clickCell(page, 'Total Coast')
  const panel = page.getByLabel('Settings of the selection')
  const grip = panel.locator('[data-group="seller"] [data-grip]')
  const [from, to] = [(await grip.boundingBox())!, (await panel.locator('[data-group="category"]').boundingBox())!]
  await page.mouse.move(from.x + 5, from.y + 8)
  await page.mouse.down()
  await page.mouse.move(to.x + 40, to.y + 4, { steps: 12 })
  await page.mouse.move(to.x + 40, to.y + 8, { steps: 4 })
  await page.mouse.up()
  await expect(panel.locator('[data-axis="columns"] [data-group]')).toHaveCount(2)
  await expect(panel.locator('[data-axis="rows"] [data-group]')).toHaveCount(1)
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await expect(panel.locator('[data-axis="columns"] [data-group]')).toHaveCount(1)
  // fields of the list go where they are dropped: beside the titles of rows, over the columns, among the figures
  const list = page.getByLabel('Fields', { exact: true })
  await list
    .locator('[data-field="line.invoice.customer.town.name"]')
    .dragTo(page.locator('[data-page="0"]'), { targetPosition: await within(page, 'Total Coast') })
  await expect(panel.locator('[data-axis="rows"] [data-group]')).toHaveText([/Region/, /Salesperson/, /Town/])
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await list.locator('[data-field="line.profit"]').dragTo(page.locator('[data-page="0"]'), { targetPosition: await within(page, '6,978') })
  await expect(panel.locator('[data-measure]')).toHaveText([/Sales, EUR/, /Profit, EUR/])
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await expect(panel.locator('[data-measure]')).toHaveCount(1)
  await panel.locator('[data-measure] summary').click()
  await pick(panel.getByLabel('How the figure is seen'), 'share of its row')
  await expect(pageText(page)).toContainText('100.0 %')
})

test('titles of groups are put into an order of one’s own, by the mouse and by the keyboard', async ({ page }) => {
  const id = await copyOf(page, 'Sales grid', 'Grid in order')
  await page.goto(`/reports/${id}/page`)
  await expect(pageText(page)).toContainText('Sales, EUR · Category')
  const titles = async () => (await pageText(page).textContent())!.match(/Antifouling|Blocks|Fenders/g)!.slice(0, 3)
  expect(await titles()).toEqual(['Antifouling', 'Blocks', 'Fenders'])
  const [from, to] = [await cellPlace(page, 'Blocks'), await cellPlace(page, 'Antifouling')]
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move(to.x, to.y, { steps: 10 })
  await page.mouse.up()
  await expect.poll(titles).toEqual(['Blocks', 'Antifouling', 'Fenders'])
  await clickCell(page, 'Blocks')
  await page.keyboard.press('Alt+ArrowRight')
  await expect.poll(titles).toEqual(['Antifouling', 'Blocks', 'Fenders'])
})

test('a figure on the pages of a run leads to its records, by the mouse and by the keyboard', async ({ page }) => {
  await page.goto(`/run/${await reportId(page, 'Sales grid')}`)
  await expect(pageText(page)).toContainText('Total Coast')
  const figures = page.locator('[data-page="0"] [data-figures]')
  await expect(figures).toBeVisible()
  const {
    runs: [run],
  } = (await (await page.request.get('/api/runs')).json()) as { runs: [{ id: string }] }
  const [first] = (await (await page.request.get(`/api/runs/${run.id}/pages?from=0&to=1`)).json()) as [
    {
      width: number
      boxes: { rowId?: string; cell?: string; x: number; y: number; width: number; height: number }[]
      items: { text?: string; x: number; y: number }[]
    },
  ]
  const box = first.boxes.find(each => each.rowId === 'total /Coast' && each.cell === 'total  sales')!
  const total = first.items.find(
    each => each.text && each.x >= box.x && each.x <= box.x + box.width && each.y >= box.y && each.y <= box.y + box.height,
  )!.text!
  const frame = (await figures.boundingBox())!
  const scale = frame.width / first.width
  await page.mouse.click(frame.x + (box.x + box.width / 2) * scale, frame.y + (box.y + box.height / 2) * scale)
  const trace = page.locator('[data-trace]')
  await expect(trace).toContainText('of this run')
  const sum = (await trace.locator('[data-trace-sum]').textContent())!.match(/[\d,.]+/)![0]
  expect(Math.round(Number(sum.replaceAll(',', '')))).toBe(Number(total.replaceAll(',', '')))
  await trace.getByRole('button', { name: 'Close the trace' }).click()
  await figures.focus()
  for (let at = 0; at < 8; at++) await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await expect(trace).toBeVisible()
})

test('the sales grid is the same on the screen, in a PDF and in a workbook that another program reads', async ({ page }) => {
  const id = await reportId(page, 'Sales grid')
  await page.goto(`/run/${id}`)
  await expect(pageText(page)).toContainText('Sales, EUR · Category')
  const folder = mkdtempSync(join(tmpdir(), 'estante-test-'))
  const run = (await (await page.request.post('/api/runs', { ...ours, data: { report: 'Sales grid', answers: {} } })).json()) as {
    id: string
  }
  await expect
    .poll(async () => ((await (await page.request.get(`/api/runs/${run.id}`)).json()) as { state: string }).state, { timeout: 60_000 })
    .toBe('done')
  const file = async (format: string) => (await page.request.get(`/api/runs/${run.id}/file?format=${format}`)).body()
  const save = async (format: string) => {
    writeFileSync(join(folder, `grid.${format}`), await file(format))
    return join(folder, `grid.${format}`)
  }
  const shown = (await pageText(page).textContent())!
  const printed = pdfText(await save('pdf'))[0]!
  for (const words of ['Sales, EUR · Category', 'Total Coast', 'Salesperson']) {
    expect(shown).toContain(words)
    expect(printed).toContain(words)
  }
  const book = await save('xlsx')
  execFileSync('soffice', ['--headless', `-env:UserInstallation=file://${folder}/office`, '--convert-to', 'csv', '--outdir', folder, book])
  const sheet = readFileSync(book.replace('.xlsx', '.csv'), 'utf8')
  expect(sheet).toContain('Total Coast')
  // the grand total that the other program shows is the sum of the rows themselves
  const lines = JSON.parse((await file('json')).toString('utf8')) as { base: string | number | null }[]
  const cents = lines.reduce((sum, { base }) => sum + Math.round(Number(base ?? 0) * 100), 0)
  const total = sheet
    .split('\n')
    .filter(line => line.startsWith('Total,'))
    .map(line => Number(line.trim().split(',').at(-1)))
  expect(total).toEqual([cents / 100])
})
