import { expect, ours, test } from './support'

test('a pack is built, held where its reports do not agree, let go with a reason, and found in the outbox', async ({ page }) => {
  await page.goto('/packs')
  await page.getByRole('button', { name: 'New pack' }).click()
  await page.getByPlaceholder('Name of the pack').fill('Close of the quarter')
  await page.getByRole('button', { name: 'Make it' }).click()
  await expect(page).toHaveURL(/packs\/[\w-]+$/)
  for (const name of ['Income statement', 'Balance sheet']) {
    await page.getByRole('button', { name: 'Add a report' }).click()
    await page.getByRole('option', { name, exact: true }).click()
    await expect(page.locator(`[data-report="${name}"]`)).toBeVisible()
  }
  // asked once for both, by the question that the second report has open
  await page.getByRole('combobox', { name: 'Period' }).click()
  await page.getByRole('option', { name: 'ask it once for all' }).click()
  await expect(page.getByLabel('What Period is by itself')).toHaveValue('period(today())')
  // totals of two statements that are not the same
  await page.getByRole('button', { name: 'Add a tie-out across reports' }).click()
  await page.getByLabel('Name of the tie-out').fill('Never equal')
  await page.getByRole('button', { name: 'Add letters' }).click()
  await page.getByRole('button', { name: 'Letters to' }).click()
  await page.keyboard.type('close@caisvelho.example')
  await page.getByRole('option', { name: /close@caisvelho\.example/ }).click()
  await page.keyboard.press('Escape')
  // until it is closed the list takes what is typed
  await expect(page.getByRole('listbox')).toHaveCount(0)
  await expect(page.getByRole('button', { name: 'Letters to' })).toBeFocused()
  await page.getByRole('textbox', { name: 'Subject' }).fill('Close of {{ param.period }}')
  await page.getByRole('textbox', { name: 'Text of the letter' }).fill('Attached.')
  await page.getByRole('button', { name: 'Run …' }).click()
  await page.getByRole('button', { name: 'Run and send' }).click()
  const held = page.locator('[data-held]')
  await expect(held).toContainText('Held: one tie-out fails.', { timeout: 60_000 })
  await expect(page.locator('[data-ties]')).toContainText('Never equal')
  await expect(page.locator('[data-delivery="ready"]')).toContainText('close@caisvelho.example')
  await page.getByLabel('Why').fill('They are two different totals')
  await page.getByRole('button', { name: 'Let it go' }).click()
  await expect(page.locator('[data-delivery="sent"]')).toContainText('close@caisvelho.example', { timeout: 30_000 })
  await expect(page.getByText('They are two different totals')).toBeVisible()
  await page.goto('/outbox')
  await expect(page.locator('[data-letter]')).toContainText('close@caisvelho.example')
  await expect(page.locator('[data-letter]')).toContainText('Attached.')
  await expect(page.locator('[data-letter]').getByRole('link', { name: /Close of the quarter\.pdf/ })).toBeVisible()
})

test('a pack that waits for a period to be closed begins by itself when it is', async ({ page }, { retry }) => {
  test.setTimeout(180_000)
  const name = `After the close ${retry}`
  await page.goto('/packs')
  await page.getByRole('button', { name: 'New pack' }).click()
  await page.getByPlaceholder('Name of the pack').fill(name)
  await page.getByRole('button', { name: 'Make it' }).click()
  await expect(page).toHaveURL(/packs\/[\w-]+$/)
  await page.getByRole('button', { name: 'Add a report' }).click()
  await page.getByRole('option', { name: 'Trial balance', exact: true }).click()
  await expect(page.locator('[data-report="Trial balance"]')).toBeVisible()
  // times first: the next five are shown by the clocks of the company
  await page.getByLabel('When it is due').click()
  await page.getByRole('option', { name: 'by itself, at times' }).click()
  await page.getByLabel('Days', { exact: true }).click()
  await page.getByRole('option', { name: 'on a working day of the week' }).click()
  const next = page.locator('[data-next] li')
  await expect(next).toHaveText(Array<RegExp>(5).fill(/^Mon, .*07:00/))
  await page.getByLabel('When it is due').click()
  await page.getByRole('option', { name: 'when a period is closed in the books' }).click()
  await expect(next).toHaveCount(0)
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Keep', exact: true })).toBeDisabled()
  const desk = (await (await page.request.get('/api/sources/caisvelho/desk')).json()) as {
    periods: { year: string; number: string; name: string; end: string }[]
  }
  const [{ year, number, end, name: period }] = desk.periods as [(typeof desk.periods)[0]]
  const date = new Date(Date.parse(end) + 86_400_000).toISOString().slice(0, 10)
  const closed = await page.request.post('/api/sources/caisvelho/desk/documents', {
    ...ours,
    data: { kind: 'closing', closing: { year, number, date } },
  })
  expect(closed.ok()).toBe(true)
  await page.goto('/packs')
  const row = page.locator(`[data-pack="${name}"]`)
  await expect(row).toContainText('when a period is closed')
  await expect(row.locator('[data-state="done"]')).toBeVisible({ timeout: 60_000 })
  // others post in it still
  await page.goto('/desk')
  await page.getByRole('tab', { name: 'Close a period' }).click()
  await expect(page.locator('[data-closed]')).toContainText(period)
  await page.locator('[data-closed]').getByRole('button', { name: 'Open it again' }).click()
  await expect(page.locator('[data-closed]')).not.toContainText(period)
})

test('statements go to each customer, those without an address are kept apart, and sheets wait for paper', async ({ page }) => {
  await page.goto('/packs')
  await page.getByRole('button', { name: 'Dry run of Statements to customers' }).click()
  await expect(page.locator('[data-deliveries]')).toBeVisible({ timeout: 90_000 })
  await expect(page.getByText('nothing of it is sent')).toBeVisible()
  const without = page.getByRole('button', { name: /without an address/ })
  await without.click()
  await expect(page.locator('[data-delivery="unaddressed"]').first()).toBeVisible()
  await expect(page.locator('[data-delivery="ready"]')).toHaveCount(0)
  await expect(page.getByRole('link', { name: 'Without address' })).toBeVisible()
  await page.goto('/printer')
  await page.getByRole('switch', { name: 'It has paper' }).click()
  await page.goto('/packs')
  await page.getByRole('button', { name: 'Run Reorder Monday' }).click()
  const sheet = page.locator('[data-deliveries] tr').filter({ hasText: 'Stand-in printer' })
  await expect(sheet).toContainText('media-empty', { timeout: 90_000 })
  const run = page.url()
  await page.goto('/printer')
  await page.getByRole('switch', { name: 'It is out of paper' }).click()
  await expect(page.locator('[data-jobs]')).toContainText('printed')
  await page.goto(run)
  await expect(sheet).toHaveAttribute('data-delivery', 'sent', { timeout: 30_000 })
})
