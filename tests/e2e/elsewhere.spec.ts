import { expect, test } from './support'

const rebates = ['customer_code,rebate', 'C-0285,12.50', 'C-0080,7.25', 'C-0333,0.75'].join('\n')

test('a table of another source is taken into a report, joined to its rows, and looked at by itself', async ({ page }, { retry }) => {
  // what a first try left has its name
  const source = retry ? `Rebates ${retry}` : 'Rebates'
  await page.goto('/')
  const origin = new URL(page.url()).origin
  const sent = await page.request.post('/api/intake?name=rebates.csv', {
    headers: { origin, 'content-type': 'application/octet-stream' },
    data: Buffer.from(rebates),
  })
  const [{ id: brought }] = (await sent.json()) as [{ id: string }]
  const added = await page.request.post('/api/sources', { headers: { origin }, data: { name: source, files: [{ id: brought }] } })
  expect(added.status()).toBe(200)
  const library = (await (await page.request.get('/api/library')).json()) as { reports: { id: string; name: string }[] }[]
  const { id } = library.flatMap(shelf => shelf.reports).find(each => each.name === 'Invoice register')!
  const { definition } = (await (await page.request.get(`/api/reports/${id}`)).json()) as { definition: object }
  const made = await page.request.post('/api/reports', {
    headers: { origin },
    data: { name: 'Register with rebates', shelf: 'Tests', definition },
  })
  const own = ((await made.json()) as { id: string }).id

  await page.goto(`/reports/${own}/data`)
  await page.getByRole('button', { name: 'data set' }).click()
  await page.getByRole('menuitem', { name: 'Table of another source' }).click()
  const panel = page.locator('[data-elsewhere]')
  await panel.getByLabel('Source of the table').click()
  await page.getByRole('option', { name: source, exact: true }).click()
  await panel.getByLabel('Table of the other source').click()
  await page.getByRole('option', { name: 'Rebates' }).click()
  await expect(panel.getByLabel('Its name in this report')).toHaveValue('rebates')
  await panel.getByRole('button', { name: 'Add as a data set' }).click()
  await expect(page.getByText('12.50', { exact: true })).toBeVisible()
  await expect(page.getByRole('region', { name: 'Tables of this report' }).or(page.getByLabel('Tables of this report'))).toContainText(
    'another source',
  )
  // joined to the invoices as a record of its own
  await page.getByRole('tab', { name: 'Main' }).click()
  await page.getByLabel('Join to customer', { exact: true }).click()
  const join = page.locator('[data-join]')
  // the button stands still once the matches above it are counted
  await expect(join.getByText(/customers? ha(s|ve) one/).nth(3)).toBeVisible()
  await join.getByRole('button', { name: 'Join by hand' }).click()
  const choose = async (label: string, name: string) => {
    await join.getByLabel(label, { exact: true }).click()
    await page.getByRole('option', { name, exact: true }).click()
  }
  await choose('Table', 'Rebates (of this report)')
  await choose('Field of customer', 'code')
  await choose('Field of the joined table', 'customer_code')
  await expect(join.locator('[data-hand-match]')).toContainText('have one')
  await join.getByRole('button', { name: 'Join', exact: true }).click()
  await expect(page.getByText('12.50', { exact: true }).first()).toBeVisible()
})
