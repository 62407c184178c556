import { expect, test } from './support'

const prices = [
  'Price list of Cais Velho;;;',
  'Item no;Description;Price;Valid from',
  ...Array.from(
    { length: 60 },
    (_, at) =>
      `00${100 + at};Rope ${at};${at === 41 ? 'on request' : `1.${100 + at},50`};${String((at % 28) + 1).padStart(2, '0')}.03.2026`,
  ),
].join('\n')
const budget = [
  'Branch,Month,Amount',
  ...Array.from({ length: 24 }, (_, at) => `B-0${(at % 2) + 1},2026-${String((at % 12) + 1).padStart(2, '0')}-01,${at * 10}.25`),
].join('\n')
const given = (name: string, text: string) => ({ name, mimeType: 'text/csv', buffer: Buffer.from(text) })

test('files become a source: what is understood is shown, a type is corrected, a report is begun on it and run', async ({ page }) => {
  await page.goto('/sources')
  await page.getByRole('button', { name: 'Add files' }).click()
  const panel = page.locator('[data-add-files]')
  await panel
    .getByLabel('Files of a new source')
    .setInputFiles([given('prices.csv', prices), given('budget.csv', budget), given('broken.csv', 'a,b\n1,"2\n')])
  await expect(panel.getByRole('status').first()).toContainText('1 line above the table is left out.')
  await expect(panel.getByText('One of its cells is no number (line 44: “on request”), so it stays a text.')).toBeVisible()
  await expect(panel.getByLabel('Type of Item no')).toContainText('Text')
  await expect(panel.getByLabel('Type of Valid from')).toContainText('Date 31/03/2026')
  // what cannot be read keeps the others from being taken in until it is left out
  await panel.getByRole('button', { name: /^broken\.csv/ }).click()
  await expect(panel.getByRole('alert').last()).toContainText('A quote that opens on line 2 is never closed')
  await expect(panel.getByRole('button', { name: /Take in/ })).toBeDisabled()
  await panel.getByRole('button', { name: 'Leave broken.csv out' }).click()
  await panel.getByLabel('Name of the source').fill('Harbour lists')

  // a type that does not fit is told with its line, and nothing is lost
  await panel.getByLabel('Type of Price').click()
  await page.getByRole('option', { name: 'Number 1.234,50' }).click()
  await panel.getByRole('button', { name: 'Take in 2 tables' }).click()
  await expect(panel.getByText('“on request” on line 44 of “prices.csv” does not fit the column “Price”', { exact: false })).toBeVisible()
  await panel.getByLabel('Type of Price').click()
  await page.getByRole('option', { name: 'Text' }).click()
  await panel.getByRole('button', { name: 'Take in 2 tables' }).click()
  await expect(panel).toBeHidden()
  await expect(page.getByRole('navigation', { name: 'Sources' }).locator('[aria-current]')).toContainText('Harbour lists')
  await expect(page.getByRole('heading', { name: 'Budget' })).toBeVisible()

  await page.goto('/new')
  await page.getByLabel('Source', { exact: true }).click()
  await page.getByRole('option', { name: 'Harbour lists' }).click()
  await page.getByText('Prices', { exact: true }).first().click()
  await page.getByRole('button', { name: 'Start with this table' }).click()
  await expect(page).toHaveURL(/\/data$/)
  await expect(page.getByText('Rope 3', { exact: true }).first()).toBeVisible()
  await page.goto(page.url().replace('/data', '/page'))
  await expect(page.locator('[data-page="0"] [data-page-text]')).toContainText('Rope 3')

  const library = (await (await page.request.get('/api/library')).json()) as { reports: { id: string; name: string }[] }[]
  const report = library.flatMap(shelf => shelf.reports).find(each => each.name === 'Prices')!
  await page.request.post(`/api/reports/${report.id}/publish`, { headers: { origin: new URL(page.url()).origin } })
  await page.goto(`/run/${report.id}`)
  await expect(page.locator('[data-run-count]')).toContainText('2 pages')
  await expect(page.locator('[data-page="0"] [data-page-text]')).toContainText('Rope 3')
})
