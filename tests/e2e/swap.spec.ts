import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test } from './support'

// invented rows that stand in for the real tables, with names of their own
const buyers = ['buyer,title,region_word', 'C-0285,Invented Net Loft,North', 'C-0080,Invented Sailing School,South'].join('\n')
const bills = [
  'bill,issued,buyer,amount due',
  ...Array.from(
    { length: 12 },
    (_, at) => `B-${100 + at},2026-10-${String(at + 1).padStart(2, '0')},${at % 2 ? 'C-0285' : 'C-0080'},${at * 10}.25`,
  ),
].join('\n')
const given = (name: string, text: string) => ({ name, mimeType: 'text/csv', buffer: Buffer.from(text) })

test('a report on invented rows is pointed at the real tables: matches are corrected, what differs is shown, and it goes back', async ({
  page,
}, { retry }) => {
  // what a first try left has its name
  const rows = retry ? `Stand-in rows ${retry}` : 'Stand-in rows'
  await page.goto('/sources')
  await page.getByRole('button', { name: 'Add files' }).click()
  const panel = page.locator('[data-add-files]')
  await panel.getByLabel('Files of a new source').setInputFiles([given('buyers.csv', buyers), given('bills.csv', bills)])
  await panel.getByLabel('Name of the source').fill(rows)
  await panel.getByRole('button', { name: 'Take in 2 tables' }).click()
  await expect(panel).toBeHidden()
  await page.goto('/new')
  await page.getByLabel('Source', { exact: true }).click()
  await page.getByRole('option', { name: rows }).click()
  await page.getByText('Bills', { exact: true }).first().click()
  await page.getByRole('button', { name: 'Start with this table' }).click()
  await expect(page).toHaveURL(/\/data$/)
  await expect(page.getByText('110.25', { exact: true }).first()).toBeVisible()
  const id = /reports\/([^/]+)\//.exec(page.url())![1]!

  await page.getByRole('link', { name: 'Swap source' }).click()
  await page.getByLabel('The other source').click()
  await page.getByRole('option', { name: 'Cais Velho' }).click()
  const pick = async (label: string, name: string) => {
    await page.getByLabel(label, { exact: true }).click()
    await page.getByPlaceholder(/Find a (table|column)/).fill(name)
    await page.getByRole('option', { name, exact: true }).click()
    // the next list opens once this one is gone
    await expect(page.getByPlaceholder(/Find a (table|column)/)).toHaveCount(0)
  }
  await expect(page.locator('[data-match="bills"]')).toBeVisible()
  await pick('Table for bills', 'invoices')
  await pick('Column for bills bill', 'number')
  await pick('Column for bills issued', 'invoice_date')
  await pick('Column for bills amount_due', 'total')
  // left out: the report says what it will miss
  await pick('Column for bills buyer', 'left out')
  await expect(page.locator('[data-lacks]')).toContainText('buyer')
  await expect(page.getByRole('button', { name: 'Prove it' })).toBeDisabled()
  await pick('Column for bills buyer', 'kind')
  await expect(page.locator('[data-lacks]')).toBeHidden()
  await page.getByRole('button', { name: 'Prove it' }).click()
  await expect(page.locator('[data-proof]')).toContainText('They print something else', { timeout: 60_000 })
  await expect(page.locator('[data-proof]')).toContainText('12 only here')
  await page.getByRole('button', { name: 'Read Cais Velho from now on' }).click()
  await expect(page).toHaveURL(/\/data$/)
  await expect(page.locator('[data-source-line]')).toContainText('Cais Velho')
  await expect(page.getByText('invoice', { exact: true }).first()).toBeVisible()

  // and back, where all names are sure to be those it has
  await page.getByRole('link', { name: 'Swap source' }).click()
  await page.getByLabel('The other source').click()
  await page.getByRole('option', { name: rows }).click()
  await expect(page.locator('[data-match="bills"]')).toContainText('sure')
  await page.getByRole('button', { name: `Read ${rows} from now on` }).click()
  await expect(page).toHaveURL(/\/data$/)
  await expect(page.getByText('110.25', { exact: true }).first()).toBeVisible()

  // from the command line, with a map
  const folder = mkdtempSync(join(tmpdir(), 'estante-test-'))
  const map = join(folder, 'map.json')
  writeFileSync(
    map,
    JSON.stringify({
      bills: 'invoices',
      'bills.bill': 'number',
      'bills.issued': 'invoice_date',
      'bills.amount_due': 'total',
      'bills.buyer': 'kind',
    }),
  )
  const swap = (...more: string[]) =>
    JSON.parse(
      execFileSync(
        process.execPath,
        ['.build/cli/estante.mjs', 'swap', id, '--to', 'Cais Velho', '--map', map, '--data', '.build/e2e-data', ...more],
        { encoding: 'utf8', env: { ...process.env, ESTANTE_ROOT: process.cwd() } },
      ),
    ) as { swapped: boolean; same?: boolean; differences?: unknown[]; unmatched: string[]; version?: number }
  const proved = swap('--prove')
  expect([proved.swapped, proved.same, proved.unmatched]).toEqual([false, false, []])
  expect(proved.differences!.length).toBeGreaterThan(12)
  expect(swap().swapped).toBe(true)
  rmSync(folder, { recursive: true })
})
