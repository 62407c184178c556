import type { Page } from '@playwright/test'
import { statement } from '../../demo/reports/statements'
import { copyOf, expect, ours, pageText, pick, reportId, test } from './support'

const idOf = (page: Page) => /reports\/([\w-]+)/.exec(page.url())![1]!
/** Figures of a line as the page prints them, by the button that follows each of them back. */
const figure = (page: Page, line: string, column: string) => page.getByRole('button', { name: `Trace ${line}, ${column}`, exact: true })
/** A figure of the Run view, read from its trace. */
async function traced(page: Page, line: string, column: string): Promise<number> {
  await figure(page, line, column).click()
  const text = await page.locator('[data-trace-figure]').textContent()
  return Number(text!.replaceAll(',', '').replace('−', '-').replace('–', '0'))
}

test('a trend from an empty report: begun from the books, a line and a column changed on the sheet, run', async ({ page }) => {
  await page.goto('/new')
  await page.locator('[data-ready]').getByRole('button', { name: 'Trend by month' }).click()
  await expect(page).toHaveURL(/\/reports\/.*\/page/)
  const id = idOf(page)
  await expect(pageText(page)).toContainText('Gross profit')
  await expect(pageText(page)).toContainText('Oct 2026')
  // a line: its accounts stand one by one, and it is called otherwise
  // a landscape page is fitted into the view first
  await expect(page.locator('footer')).toContainText('59 %')
  await page.mouse.click(380, 195)
  await expect(page.getByLabel('Accounts of the line')).toHaveValue('class "Sales"')
  await pick(page.getByLabel('How its accounts stand'), 'stand one by one')
  await expect(pageText(page)).toContainText(/4020\s+Sales, deck gear/)
  await expect(pageText(page)).toContainText('Total sales')
  await page.getByLabel('Accounts of the line').fill('class "Sales" except 4950, oops..1')
  await page.getByLabel('Accounts of the line').press('Enter')
  await expect(page.getByRole('alert').filter({ hasText: 'A range begins with the lower code' })).toBeVisible()
  await page.getByLabel('Accounts of the line').fill('class "Sales" except 4950')
  await page.getByLabel('Accounts of the line').press('Enter')
  await expect(page.locator('[data-notice="accounts"]')).toContainText('1 account with movements stands in no line: 4950')
  await expect(pageText(page)).not.toContainText(/4950\s+Discounts given/)
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
  await page.getByRole('button', { name: 'Undo', exact: true }).click()
  await expect(page.locator('[data-notice="accounts"]')).toHaveCount(0)
  await page.getByRole('button', { name: 'Run', exact: true }).click()
  await expect(page).toHaveURL(new RegExp(`/run/${id}`))
  await expect(pageText(page)).toContainText('Total sales')
})

test('an entry posted at the company desk stands in a statement at its next refresh, and nothing else changes', async ({ page }) => {
  const id = await reportId(page, 'Income statement')
  await page.goto(`/run/${id}`)
  await expect(pageText(page)).toContainText('Operating expenses')
  const before = [
    await traced(page, 'Operating expenses', 'actual'),
    await traced(page, 'Result', 'actual'),
    await traced(page, 'Personnel', 'actual'),
  ]
  await page.goto('/desk')
  const entry = page.getByRole('form', { name: 'Journal entry' })
  await entry.getByLabel('Description').fill('Paint for the quay')
  await entry.getByLabel('Account of line 1').fill('6150')
  await entry.getByLabel('Debit of line 1').fill('1234.50')
  await entry.getByLabel('Account of line 2').fill('1010')
  await entry.getByLabel('Credit of line 2').fill('1234')
  await expect(entry.getByRole('status')).toContainText('Debits and credits differ by 0.50.')
  await expect(entry.getByRole('button', { name: 'Post', exact: true })).toBeDisabled()
  await entry.getByLabel('Credit of line 2').fill('1234.50')
  await entry.getByRole('button', { name: 'Post', exact: true }).click()
  await expect(page.locator('[data-desk-entries]')).toContainText('Paint for the quay')
  await page.goto(`/run/${id}`)
  await expect(pageText(page)).toContainText('Operating expenses')
  const after = [
    await traced(page, 'Operating expenses', 'actual'),
    await traced(page, 'Result', 'actual'),
    await traced(page, 'Personnel', 'actual'),
  ]
  expect(after.map((value, index) => Math.round((value - before[index]!) * 100) / 100)).toEqual([1234.5, -1234.5, 0])
  // followed back to the very entry
  await figure(page, 'Operating expenses', 'actual').click()
  await page.locator('[data-trace-accounts]').getByRole('button', { name: /^6150/ }).click()
  await expect(page.locator('[data-trace-lines]')).toContainText('Paint for the quay')
  await expect(page.locator('[data-trace-lines] tbody tr').filter({ hasText: 'Paint for the quay' })).toContainText('1,234.50')
})

test('a tie-out is suggested and holds; one that fails is shown with both figures, and hides nothing', async ({ page }) => {
  await page.goto('/new')
  await page.locator('[data-ready]').getByRole('button', { name: 'Balance sheet' }).click()
  await expect(page).toHaveURL(/\/reports\/.*\/page/)
  const id = idOf(page)
  await expect(pageText(page)).toContainText('Total assets')
  await page.getByRole('link', { name: 'Tie-out', exact: true }).click()
  await page.getByRole('button', { name: 'Add The balance sheet balances' }).click()
  await expect(page.locator('[data-tie="The balance sheet balances"]').getByLabel('holds')).toBeVisible()
  await page.getByRole('button', { name: 'Tie-out', exact: true }).click()
  const own = page.getByRole('complementary', { name: 'This tie-out' })
  await own.getByLabel('Name').fill('Assets are a million')
  await own.getByLabel('Name').press('Tab')
  await pick(own.getByLabel('Kind of the left figure'), 'a line of a statement')
  await own.getByLabel('Formula of the right figure').fill('1000000')
  await own.getByLabel('Formula of the right figure').press('Tab')
  const row = page.locator('[data-tie="Assets are a million"]')
  await expect(row.getByLabel('fails')).toBeVisible()
  await expect(row).toContainText('1,000,000.00')
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
  await page.getByRole('button', { name: 'Run', exact: true }).click()
  await expect(page).toHaveURL(new RegExp(`/run/${id}`))
  await expect(pageText(page)).toContainText('Total assets')
  await page.locator('[data-run-ties]').click()
  await expect(page.locator('[data-run-ties]')).toContainText('1 of 2 tie-outs fails')
  await expect(page.locator('[data-tie-results]')).toContainText('Assets are a million')
})

test('the books are said otherwise: fiscal years of weeks, kept for all reports, and back to what was found', async ({ page }) => {
  await page.goto('/sources')
  await page.getByRole('button', { name: 'The books' }).click()
  const books = page.locator('[data-source-books]')
  await expect(books.getByRole('list', { name: 'Checks' })).toContainText('journals balance.')
  await pick(books.getByLabel('How fiscal years are cut'), 'four quarters of 13 weeks')
  await pick(books.getByLabel('Month'), 'March')
  await pick(books.getByLabel('Which one'), 'nearest')
  await expect(books).toContainText('P12 2026/27, 21 Feb 2027 – 3 Apr 2027')
  // what cannot be is said, and nothing is kept
  await pick(books.getByLabel('Accounts: type'), 'name')
  await expect(books.getByRole('list', { name: 'Checks' })).toContainText('a type that is not known')
  await pick(books.getByLabel('Accounts: type'), 'type')
  await expect(books.getByRole('list', { name: 'Checks' })).toContainText('accounts have a type that is known')
  await books.getByRole('button', { name: 'Keep with the source' }).click()
  await expect(books).toContainText('as somebody said it')
  const id = await reportId(page, 'Income statement')
  await page.goto(`/run/${id}`)
  await expect(pageText(page)).toContainText('P8 2026/27')
  await page.goto('/sources')
  await page.getByRole('button', { name: 'The books' }).click()
  await books.getByRole('button', { name: 'Back to what was found' }).click()
  await expect(books).toContainText('found from tables, keys and names')
  await page.goto(`/run/${id}`)
  await expect(pageText(page)).toContainText('Oct 2026')
})

test('in a run, accounts are folded away and shown again, and a journal line leads to its document', async ({ page }) => {
  await page.goto(`/run/${await reportId(page, 'Trial balance')}`)
  await expect(pageText(page)).toContainText(/4010\s+Sales, rope/)
  await page.getByRole('button', { name: 'Fold the accounts away' }).click()
  await expect(pageText(page)).not.toContainText(/4010\s+Sales, rope/)
  await expect(pageText(page)).toContainText('All accounts')
  await page.getByRole('button', { name: 'Show the accounts', exact: true }).first().click()
  await expect(pageText(page)).toContainText(/4010\s+Sales, rope/)
  await page.goto(`/run/${await reportId(page, 'Income statement')}`)
  await figure(page, 'Sales', 'actual').click()
  await page.locator('[data-trace-lines]').getByRole('button', { name: /^INV-/ }).first().click()
  await expect(page.locator('[data-document]')).toContainText('Invoice lines')
  await page.locator('[data-document]').getByRole('button', { name: 'Journal lines' }).click()
  await expect(page.locator('[data-trace-lines]')).toBeVisible()
})

test('a footnote is said otherwise for one run, and the address keeps it', async ({ page }) => {
  const definition = statement('income', block => ({
    ...block,
    footnotes: [{ id: 'rope', text: 'Rope sold by the metre.' }],
    lines: block.lines.map(line => (line.id === 'sales' ? { ...line, footnote: 'rope' } : line)),
  }))
  const { id } = (await (
    await page.request.post('/api/reports', { ...ours, data: { name: 'Income with a note', shelf: 'Finance', definition } })
  ).json()) as { id: string }
  await page.goto(`/reports/${id}/page`)
  await page.getByRole('button', { name: 'Run', exact: true }).click()
  await expect(page).toHaveURL(new RegExp(`/run/${id}`))
  await expect(pageText(page)).toContainText('Rope sold by the metre.')
  await page.getByRole('button', { name: 'Footnotes of this run' }).click()
  const panel = page.locator('[data-run-footnotes]')
  await panel.getByLabel('Footnote 1').fill('Without the regatta order of {{ param.period.label }}.')
  await panel.getByLabel('Footnote 1').press('Tab')
  await expect(pageText(page)).toContainText('¹ Without the regatta order of October 2026')
  await expect(pageText(page)).not.toContainText('Rope sold by the metre.')
  await page.reload()
  await expect(pageText(page)).toContainText('Without the regatta order of')
  await page.getByRole('button', { name: 'Footnotes of this run' }).click()
  await panel.getByRole('button', { name: 'as in the report' }).click()
  await expect(pageText(page)).toContainText('Rope sold by the metre.')
})

test('a line is drawn: its chart stands on the sheet, changes, follows its name, and is on the page of a run', async ({ page }) => {
  await page.goto('/new')
  await page.locator('[data-ready]').getByRole('button', { name: 'Trend by month' }).click()
  await expect(page).toHaveURL(/\/reports\/.*\/page/)
  await expect(pageText(page)).toContainText('Gross profit')
  await expect(page.locator('footer')).toContainText('59 %')
  await page.mouse.click(380, 195)
  await expect(page.getByLabel('Accounts of the line')).toHaveValue('class "Sales"')
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Chart of this line' }).click()
  await expect(page.getByLabel('Form of the chart')).toHaveText('lines')
  await page.getByLabel('Height of the chart').fill('35')
  await page.getByLabel('Height of the chart').press('Tab')
  await page.getByLabel('Title of the chart').fill('Sales of a year')
  await page.getByLabel('Title of the chart').press('Tab')
  await expect(pageText(page)).toContainText('Sales of a year')
  await pick(page.getByLabel('Draw another line'), 'Gross profit')
  await pick(page.getByLabel('Form of the chart'), 'bars on one another')
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
  await page.getByRole('button', { name: 'Run', exact: true }).click()
  await expect(pageText(page)).toContainText('Sales of a year')
})

test('tie-outs stand on the page where they are wanted', async ({ page }) => {
  await page.goto(`/reports/${await copyOf(page, 'Balance sheet', 'Tied on the page')}/tieout`)
  await page.getByRole('button', { name: 'Print them on the page' }).click()
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
  await page.getByRole('link', { name: 'Page', exact: true }).click()
  await expect(pageText(page)).toContainText(/The balance sheet balances .* agrees/)
  await page.getByRole('button', { name: 'Run', exact: true }).click()
  await expect(page).toHaveURL(/\/run\//)
  await expect(pageText(page)).toContainText(/Checked.*The balance sheet balances .* agrees/s)
})

test('an invoice, a receipt and a bill of the desk stand in the statement, the ageing still ties out, and what changed is shown', async ({
  page,
}) => {
  const id = await reportId(page, 'Income statement')
  await page.goto(`/run/${id}`)
  await expect(pageText(page)).toContainText('Operating expenses')
  const before = [await traced(page, 'Services', 'actual'), await traced(page, 'Operating expenses', 'actual')]
  await page.goto('/desk')
  await page
    .getByRole('button', { name: 'Invoice', exact: true })
    .or(page.getByRole('tab', { name: 'Invoice', exact: true }))
    .click()
  const invoice = page.getByRole('form', { name: 'Invoice' })
  await invoice.getByLabel('Customer').fill('C-0007')
  await invoice.getByLabel('Item or account of line 1').fill('4210')
  await invoice.getByLabel('Description of line 1').fill('Hull repaired')
  await invoice.getByLabel('Quantity of line 1').fill('2')
  await invoice.getByLabel('Price of line 1').fill('500')
  await invoice.getByRole('button', { name: 'Post', exact: true }).click()
  const posted = page.locator('[data-desk-entries]')
  const own = posted.locator('tbody tr').filter({ hasText: 'Invoice' }).first()
  await expect(own).toBeVisible()
  const number = (await own.locator('td').nth(3).textContent())!.trim()
  await page
    .getByRole('button', { name: 'Bill', exact: true })
    .or(page.getByRole('tab', { name: 'Bill', exact: true }))
    .click()
  const bill = page.getByRole('form', { name: 'Bill' })
  await bill.getByLabel('Supplier').fill('V-001')
  await bill.getByLabel('Number on the bill').fill('R 4711')
  await bill.getByLabel('Account of line 1').fill('6135')
  await bill.getByLabel('Amount of line 1').fill('80')
  await bill.getByRole('button', { name: 'Post', exact: true }).click()
  await expect(posted).toContainText(/Bill/)
  await page
    .getByRole('button', { name: 'Receipt', exact: true })
    .or(page.getByRole('tab', { name: 'Receipt', exact: true }))
    .click()
  const receipt = page.getByRole('form', { name: 'Receipt' })
  await receipt.getByLabel('Customer').fill('C-0007')
  await receipt.getByLabel('Customer').press('Tab')
  await receipt.getByLabel('Received').fill('1000')
  await receipt.getByRole('button', { name: 'Pay the oldest first' }).click()
  await receipt.getByRole('button', { name: 'Post', exact: true }).click()
  await expect(posted).toContainText(/Receipt/)
  await page.goto(`/run/${id}`)
  await expect(pageText(page)).toContainText('Operating expenses')
  const after = [await traced(page, 'Services', 'actual'), await traced(page, 'Operating expenses', 'actual')]
  expect(after.map((value, index) => Math.round((value - before[index]!) * 100) / 100)).toEqual([1000, 80])
  // from the figure to the very invoice
  await figure(page, 'Services', 'actual').click()
  await page.locator('[data-trace-lines]').getByRole('button', { name: number }).click()
  await expect(page.locator('[data-document]')).toContainText('Hull repaired')
  await page.getByRole('link', { name: 'What changed since the run before' }).click()
  const changes = page.getByRole('complementary', { name: 'Changes' })
  await expect(changes).toContainText('Services')
  await expect(changes).toContainText('1,000.00')
  await page.goto(`/run/${await reportId(page, 'Customer ageing')}`)
  await expect(page.locator('[data-run-ties]')).toHaveText(/ties out|all .* tie out/i)
})
