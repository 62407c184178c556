import { AxeBuilder } from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { clickCell, expect, reportId, test } from './support'

/** What axe finds of serious and critical faults: rule, and where. */
async function faults(page: Page): Promise<string[]> {
  const { violations } = await new AxeBuilder({ page }).analyze()
  return violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .flatMap(({ id, nodes }) =>
      nodes.slice(0, 4).map(node => `${id}: ${node.target.join(' ')} ${node.failureSummary?.split('\n')[1]?.trim() ?? ''}`),
    )
}

/** All pages of the application, each with what must stand on it before it is looked at. */
const pages = (report: string): [path: string, ready: string][] => [
  ['/', '[data-shelf]'],
  ['/new', 'main'],
  ['/sources', '[data-sources]'],
  ['/runs', 'main'],
  ['/packs', 'main'],
  ['/outbox', 'header'],
  ['/printer', 'main'],
  ['/desk', 'main'],
  ['/settings', 'main'],
  ['/people', 'main'],
  ['/guards', 'header'],
  ['/log', 'main'],
  ['/changes', 'main'],
  ['/account', 'main'],
  [`/reports/${report}/source`, 'main'],
  [`/reports/${report}/data`, '[role="grid"], table'],
  [`/reports/${report}/parameters`, 'main'],
  [`/reports/${report}/page`, '[data-page="0"]'],
  [`/reports/${report}/tieout`, 'main'],
  [`/reports/${report}/deliver`, '[data-layouts]'],
  [`/run/${report}?month=2026-09`, '[data-page="0"]'],
]

for (const scheme of ['light', 'dark'] as const)
  test(`axe finds nothing serious on any page, ${scheme}`, async ({ page }) => {
    test.setTimeout(300_000)
    await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' })
    const report = await reportId(page)
    const found: string[] = []
    for (const [path, ready] of pages(report)) {
      await page.goto(path)
      const there = await page
        .locator(ready)
        .first()
        .waitFor({ timeout: 10_000 })
        .then(
          () => true,
          () => false,
        )
      if (!there) found.push(`${path} shows no ${ready}`)
      // what comes by and by is there
      await page.waitForTimeout(500)
      found.push(...(await faults(page)).map(fault => `${path.replace(report, ':report')} ${fault}`))
    }
    expect(found).toEqual([])
  })

test('axe finds nothing serious in menus, dialogs and the parts that open on a page', async ({ page }) => {
  test.setTimeout(200_000)
  await page.emulateMedia({ reducedMotion: 'reduce' })
  const report = await reportId(page)
  const found: string[] = []
  const look = async (what: string) => found.push(...(await faults(page)).map(fault => `${what} ${fault}`))
  await page.goto(`/reports/${report}/page`)
  await page.locator('[data-page="0"]').waitFor()
  await page.keyboard.press('Control+k')
  await page.getByRole('dialog').waitFor()
  await look('commands')
  await page.keyboard.press('Escape')
  const payments = await reportId(page, 'Payments due')
  await page.goto(`/reports/${payments}/page`)
  await page.locator('[data-page="0"]').waitFor()
  await clickCell(page, 'Their number')
  await page.locator('[data-payments]').waitFor()
  await look('settings of a table')
  await page.goto(`/run/${payments}`)
  await page.locator('[data-page="0"]').waitFor()
  await page.getByLabel('Download as').click()
  for (const format of ['csv', 'parquet', 'pain']) {
    await page.locator(`[data-format="${format}"]`).click()
    await look(`download as ${format}`)
  }
  await page.keyboard.press('Escape')
  await page.goto(`/reports/${report}/page`)
  await page.locator('[data-page="0"]').waitFor()
  await clickCell(page, 'Pay by the code, or to')
  await look('settings of an item')
  expect(found).toEqual([])
})
