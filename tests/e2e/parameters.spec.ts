import { copyOf, expect, test } from './support'

test('Parameters: kinds, choices from a table, narrowing; a circle is refused', async ({ page }) => {
  const id = await copyOf(page, 'Invoice register', 'Asking')
  await page.goto(`/reports/${id}/parameters`)
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Choice', exact: true }).click()
  const settings = page.getByLabel('Settings of the parameter')
  await settings.getByLabel('Label').fill('Branch')
  await settings.getByText('from a table or data set').click()
  await settings.getByLabel('Table of the choices').click()
  await page.getByPlaceholder('Find a table').fill('branches')
  await page.getByRole('option', { name: 'Branches' }).click()
  const form = page.getByLabel('The reader’s form')
  await form.locator('[data-parameter="choice"] button').first().click()
  await expect(page.getByRole('option')).toHaveCount(3)
  await expect(page.locator('[data-choice-count]')).toHaveText('3 of 3')
  await page.getByRole('option', { name: /Island Depot/ }).click()
  await expect(form.locator('[data-parameter="choice"]')).toContainText('Island Depot')
  // the region narrowed by the customer, whom the region narrows
  await page.locator('[data-listed="region"] button').first().click()
  await settings.locator('[data-narrowed]').getByRole('button', { name: 'another parameter' }).click()
  await settings.getByLabel('Narrowed by which parameter').click()
  await page.getByRole('option', { name: 'Customer' }).click()
  await expect(settings.getByRole('alert')).toContainText('goes in a circle')
  // a default that cannot be worked out
  await page.locator('[data-listed="period"] button').first().click()
  await settings.getByLabel('Default of the parameter').fill('periodd(today())')
  await expect(settings.getByRole('alert').first()).toContainText('There is no function “periodd”; the nearest is “period”.')
})

test('Run: region narrows towns and customers, keeps what is valid, says what is let go; the address holds the answers', async ({
  page,
}) => {
  await page.goto('/')
  const library = (await (await page.request.get('/api/library')).json()) as { reports: { id: string; name: string }[] }[]
  const { id } = library.flatMap(shelf => shelf.reports).find(report => report.name === 'Invoice register')!
  await page.goto(`/run/${id}?period=2026-P04`)
  const choose = async (parameter: string, option: string | RegExp, search = '') => {
    await page.locator(`[data-parameter="${parameter}"] button`).first().click()
    if (search)
      await page
        .getByPlaceholder(/^Find a/)
        .last()
        .fill(search)
    await page.getByRole('option', { name: option }).first().click()
    await page.keyboard.press('Escape')
  }
  await expect(page.locator('[data-page="0"] [data-page-text]')).toContainText('July 2026')
  await choose('region', 'Estuary')
  await page.locator('[data-parameter="town"] button').first().click()
  await expect(page.getByRole('option')).toHaveText([/Foz Velha/, /Sapal Novo/])
  await page.getByRole('option', { name: /Foz Velha/ }).click()
  await page.keyboard.press('Escape')
  await expect(page).toHaveURL(/region=2/)
  await expect(page).toHaveURL(/town=\d+/)
  await expect(page.locator('[data-page="0"] [data-page-text]')).toContainText('town Foz Velha')
  // another region: the town is no longer among the choices
  await choose('region', 'North Shore')
  await expect(page.locator('[data-dropped-answer]')).toContainText('no longer among the choices of Town')
  await expect(page.locator('[data-page="0"] [data-page-text]')).toContainText('town all')
  // the same run from its address, several customers in it; a wrong one gets a sentence
  await page.goto(`/run/${id}?period=2026-P04&customer=C-0001,C-0002`)
  await expect(page.locator('[data-page="0"] [data-page-text]')).toContainText(/customer Marina do Sul and Marina do Sul/)
  await page.goto(`/run/${id}?period=2026-P04&customer=C-9999`)
  await expect(page.getByRole('alert')).toContainText('“C-9999” is not among the choices of Customer.')
  await page.goto(`/run/${id}?period=2026-13`)
  await expect(page.locator('[data-parameter="period"]').getByRole('alert')).toContainText('“2026-13” is no period of the fiscal calendar')
})

test('answers are kept under a name and come back', async ({ page }) => {
  const library = (await (await page.request.get('/api/library')).json()) as { reports: { id: string; name: string }[] }[]
  const { id } = library.flatMap(shelf => shelf.reports).find(report => report.name === 'Invoice register')!
  await page.goto(`/run/${id}?period=2026-P03`)
  await expect(page.locator('[data-page="0"] [data-page-text]')).toContainText('June 2026')
  await page.getByRole('button', { name: 'Saved answers' }).click()
  await page.getByRole('menuitem', { name: 'Keep these answers' }).click()
  await page.getByLabel('Name of the answers').fill('Close of June')
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await page.goto(`/run/${id}`)
  await expect(page.locator('[data-page="0"] [data-page-text]')).toContainText('October 2026')
  await page.getByRole('button', { name: 'Saved answers' }).click()
  await page.getByRole('menuitem', { name: 'Close of June' }).click()
  await expect(page.locator('[data-page="0"] [data-page-text]')).toContainText('June 2026')
  await expect(page).toHaveURL(/period=2026-P03/)
})
