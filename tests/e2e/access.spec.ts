import AxeBuilder from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { clickCell, expect, reportId, test } from './support'

/**
 * What has to be as it is: marks of the rail are as small as the rows of the page that they stand beside (arrow keys and the outline lead
 * to the same places), and the list of commands scrolls with its arrow keys.
 */
const spared = (rule: string, target: string): boolean =>
  (rule === 'target-size' && target.includes('[aria-label="Rail"]')) ||
  (rule === 'scrollable-region-focusable' && target === '.scroll-py-1')

/** What axe finds on a page by the rules of WCAG 2.2 A and AA, in light and in dark. */
async function faultsOf(page: Page, where: string): Promise<string[]> {
  const faults: string[] = []
  // colours are looked at when they stand
  await page.addStyleTag({ content: '* { transition: none !important }' })
  for (const scheme of ['light', 'dark'] as const) {
    await page.evaluate(dark => document.documentElement.classList.toggle('dark', dark), scheme === 'dark')
    const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']).analyze()
    for (const { id, nodes } of violations)
      faults.push(
        ...nodes
          .filter(node => !spared(id, node.target.join(' ')))
          .slice(0, 4)
          .map(node => `${where}, ${scheme}: ${id} ${node.target.join(' ')} ${node.failureSummary ?? ''}`),
      )
  }
  return faults
}

test('what is sent, printed, paid and set reads well too, with its menus and settings', async ({ page }) => {
  test.setTimeout(240_000)
  const faults: string[] = []
  const look = async (where: string) => void faults.push(...(await faultsOf(page, where)))
  const visit = async (address: string, ready: string) => {
    await page.goto(address)
    await expect(page.locator(ready).first()).toBeVisible()
    await look(address)
  }
  const id = await reportId(page)
  const payments = await reportId(page, 'Payments due')
  for (const address of ['/packs', '/outbox', '/printer', '/settings']) await visit(address, 'header')
  await visit(`/reports/${id}/deliver`, '[data-layouts]')
  await page.goto(`/reports/${payments}/page`)
  await expect(page.locator('[data-page="0"] [data-page-text]')).toContainText('Their number')
  await clickCell(page, 'Their number')
  await expect(page.locator('[data-payments]')).toBeVisible()
  await look('payments')
  await page.goto(`/reports/${id}/page`)
  await expect(page.locator('[data-page="0"] [data-page-text]')).toContainText('Pay by the code')
  await page.getByRole('button', { name: 'Select invoice' }).first().press('Enter')
  await expect(page.locator('[data-einvoice]')).toBeVisible()
  await look('an e-invoice')
  await page.goto(`/run/${payments}`)
  await expect(page.locator('[data-page="0"] [data-page-text]')).toContainText('Their number')
  await page.getByLabel('Download as').click()
  for (const format of ['csv', 'pain']) {
    await page.locator(`[data-format="${format}"]`).click()
    await look(`download as ${format}`)
  }
  expect(faults).toEqual([])
})

test('every main view reads well for eyes and for screen readers, in light and dark', async ({ page }) => {
  test.setTimeout(240_000)
  const faults: string[] = []
  const visit = async (address: string, ready: string) => {
    await page.goto(address)
    await expect(page.locator(ready).first()).toBeVisible()
    faults.push(...(await faultsOf(page, address)))
  }
  const look = async (where: string) => void faults.push(...(await faultsOf(page, where)))
  const id = await reportId(page)
  const income = await reportId(page, 'Income statement')
  await visit('/', 'a[href*="/reports/"]')
  await visit(`/reports/${id}/data`, 'table')
  await page.getByRole('button', { name: 'Join to Invoice' }).click()
  await expect(page.locator('[data-join]')).toBeVisible()
  await look('a join')
  await visit(`/reports/${id}/page`, '[data-page="0"] [data-page-text]')
  await clickCell(page, 'Amount')
  await expect(page.getByLabel('Width in millimetres')).toBeVisible()
  await look('a column')
  await page.keyboard.press('Control+k')
  await expect(page.getByRole('dialog')).toBeVisible()
  await look('commands')
  await visit(`/reports/${income}/page`, '[data-page="0"] [data-page-text]')
  await visit(`/run/${id}?month=2026-09`, '[data-page="0"] [data-page-text]')
  await visit('/new', 'main')
  await visit(`/reports/${id}/parameters`, 'main')
  await visit(`/reports/${income}/tieout`, 'main')
  await visit('/sources', 'main')
  await page.getByRole('button', { name: 'Add files' }).click()
  await page
    .getByLabel('Files of a new source')
    .setInputFiles({ name: 'prices.csv', mimeType: 'text/csv', buffer: Buffer.from('Item,Price\nA,1.50\nB,about 2\nC,3\nD,4\n') })
  await expect(page.locator('[data-understood]')).toBeVisible()
  await look('files of a new source')
  await visit('/runs', 'main')
  await visit('/desk', 'main')
  await visit('/changes', 'main')
  await visit('/nothing-here', 'main')
  expect(faults).toEqual([])
})
