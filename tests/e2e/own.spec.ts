import { beFirst, type OwnServer, ownServer } from './ownServer'
import { expect, test } from './support'

let server: OwnServer
let own = ''
test.beforeAll(async () => {
  server = ownServer('4793')
  own = server.address
  await server.said(/Estante is ready/)
})
test.afterAll(() => server.end())

test('a library without the demo says what to do first, and leads to a report on files that are dropped', async ({ page }) => {
  // until somebody is there, nothing answers, and it is said where to begin
  expect((await page.request.get(`${own}/api/library`)).status()).toBe(401)
  await page.goto(own)
  await expect(page.getByRole('heading', { name: 'Nobody is here yet' })).toBeVisible()
  await beFirst(server, page.request)
  await page.goto(own)
  await expect(page.locator('[data-first-steps]')).toContainText('First, tables to report on')
  await expect(page.getByRole('link', { name: 'Company desk' })).toBeHidden()
  for (const path of ['/sources', '/new']) {
    await page.goto(own + path)
    await expect(page.locator('[data-first-steps]')).toBeVisible()
  }
  // dropped on New report
  await page.evaluate(() => {
    const carried = new DataTransfer()
    carried.items.add(new File(['berth,length\nQ1,12.50\nQ2,18.00\n'], 'berths.csv', { type: 'text/csv' }))
    document.querySelector('[data-first-steps]')!.dispatchEvent(new DragEvent('dragenter', { bubbles: true, dataTransfer: carried }))
  })
  const panel = page.locator('[data-add-files]')
  await panel
    .getByLabel('Files of a new source')
    .setInputFiles([{ name: 'berths.csv', mimeType: 'text/csv', buffer: Buffer.from('berth,length\nQ1,12.50\nQ2,18.00\n') }])
  await panel.getByLabel('Name of the source').fill('Harbour office')
  await panel.getByRole('button', { name: 'Take in', exact: true }).click()
  await expect(panel).toBeHidden({ timeout: 60_000 })
  await page.getByText('Berths', { exact: true }).first().click()
  await page.getByRole('button', { name: 'Start with this table' }).click()
  await expect(page).toHaveURL(/\/data$/)
  await expect(page.getByText('12.50', { exact: true }).first()).toBeVisible()
  await page.goto(own)
  await expect(page.getByText('Berths', { exact: true })).toBeVisible()
})
