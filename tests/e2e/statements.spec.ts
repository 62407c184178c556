import type { Page } from '@playwright/test'
import { expect, pageText, test } from './support'

const idOf = (page: Page) => /reports\/([\w-]+)/.exec(page.url())![1]!
const reportNamed = async (page: Page, name: string) => {
  const library = await (await page.request.get('/api/library')).json() as { reports: { id: string, name: string }[] }[]
  return library.flatMap(shelf => shelf.reports).find(report => report.name === name)!.id
}
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
  await page.getByLabel('Shows its accounts').check()
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
  const id = await reportNamed(page, 'Income statement')
  await page.goto(`/run/${id}`)
  await expect(pageText(page)).toContainText('Operating expenses')
  const before = [await traced(page, 'Operating expenses', 'actual'), await traced(page, 'Result', 'actual'), await traced(page, 'Personnel', 'actual')]
  await page.goto('/desk')
  await page.getByLabel('Description').fill('Paint for the quay')
  await page.getByLabel('Account of line 1').fill('6150')
  await page.getByLabel('Debit of line 1').fill('1234.50')
  await page.getByLabel('Account of line 2').fill('1010')
  await page.getByLabel('Credit of line 2').fill('1234')
  await expect(page.getByRole('status')).toContainText('Debits and credits differ by 0.50.')
  await expect(page.getByRole('button', { name: 'Post', exact: true })).toBeDisabled()
  await page.getByLabel('Credit of line 2').fill('1234.50')
  await page.getByRole('button', { name: 'Post', exact: true }).click()
  await expect(page.locator('[data-desk-entries]')).toContainText('Paint for the quay')
  await page.goto(`/run/${id}`)
  await expect(pageText(page)).toContainText('Operating expenses')
  const after = [await traced(page, 'Operating expenses', 'actual'), await traced(page, 'Result', 'actual'), await traced(page, 'Personnel', 'actual')]
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
  await own.getByLabel('Kind of the left figure').selectOption('line')
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
