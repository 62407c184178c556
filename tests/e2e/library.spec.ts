import { expect, test } from '@playwright/test'
import { reportId } from './support'

test('a report is copied, renamed, moved, put away and brought back, by mouse and by keyboard', async ({ page }) => {
  await page.goto('/')
  const menu = async (name: string) => {
    await page.getByRole('button', { name: `Menu of ${name}`, exact: true }).click()
  }
  await menu('Item sales')
  await page.getByRole('menuitem', { name: 'Copy' }).click()
  await expect(page.getByRole('link', { name: 'Item sales copy', exact: true })).toBeVisible()
  // by keyboard: a new name is written where the old one stands
  await page.locator('a[aria-label^="Item sales copy:"]').focus()
  await page.keyboard.press('F2')
  await expect(page.getByLabel('Name of Item sales copy')).toBeFocused()
  await page.keyboard.type('Counter sales')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('link', { name: 'Counter sales', exact: true })).toBeVisible()
  // a shelf of its own
  await page.getByRole('button', { name: 'New shelf' }).click()
  await page.getByLabel('Name of the new shelf').fill('Counter')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-shelf="Counter"]')).toBeVisible()
  await menu('Counter sales')
  await page.getByRole('menuitem', { name: 'Move to' }).hover()
  await page.getByRole('menuitem', { name: 'Counter', exact: true }).click()
  await expect(page.locator('[data-shelf="Counter"]').getByRole('link', { name: 'Counter sales', exact: true })).toBeVisible()
  await page.getByRole('button', { name: 'Menu of the shelf Counter' }).click()
  await expect(page.getByRole('menuitem', { name: 'Take away' })).toBeDisabled()
  await page.getByRole('menuitem', { name: 'Move up' }).click()
  await expect
    .poll(async () => page.locator('[data-shelf]').evaluateAll(list => list.map(each => each.getAttribute('data-shelf')).at(-2)))
    .toBe('Counter')
  // put away with a key, and back again
  await page.locator('a[aria-label^="Counter sales:"]').focus()
  await page.keyboard.press('Delete')
  await expect(page.getByRole('link', { name: 'Counter sales', exact: true })).toBeHidden()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('link', { name: 'Counter sales', exact: true })).toBeVisible()
  const made = await reportId(page, 'Counter sales')
  const copy = (await (await page.request.get(`/api/reports/${made}`)).json()) as { definition: unknown }
  const own = (await (await page.request.get(`/api/reports/${await reportId(page, 'Item sales')}`)).json()) as { definition: unknown }
  expect(copy.definition).toEqual(own.definition)
})

test('a report is found by its name, by a table and by a text on its pages', async ({ page }) => {
  await page.goto('/')
  const search = page.getByLabel(/^Find a report/)
  await search.fill('stock levels')
  await expect(page.getByText('reads stock_levels').first()).toBeVisible()
  await search.fill('carried forward')
  await expect(page.getByText(/says “Carried forward/).first()).toBeVisible()
  await search.fill('nothing at all like this')
  await expect(page.getByText('No report is called so')).toBeVisible()
  await search.press('Escape')
  await expect(page.getByRole('link', { name: 'Item sales', exact: true })).toBeVisible()
})

test('a new report is drafted from its table in two actions, and its totals are those of the books', async ({ page }) => {
  await page.goto('/new')
  await page.getByRole('textbox').first().fill('journal lines')
  await expect(page.getByRole('heading', { name: 'Journal lines', exact: true })).toBeVisible()
  await page.getByRole('button', { name: 'Draft the page' }).click()
  await page.waitForURL(/\/reports\/.*\/page/)
  await expect(page.locator('[data-page-text]').first()).toContainText('Balance')
  await expect(page.locator('[data-page-text]').first()).toContainText('1200 Receivables control')
  // another draft of the same data stands beside it
  await page.getByRole('button', { name: 'Draft', exact: true }).click()
  await page
    .getByRole('menuitem', { name: /plain list/ })
    .or(page.getByText('Draft a plain list'))
    .first()
    .click()
  await expect(page.locator('[data-page-text]').first()).toContainText('Account')
})
