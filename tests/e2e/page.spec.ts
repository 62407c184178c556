import { writeFileSync } from 'node:fs'
import { unzipSync } from 'fflate'
import { clickCell, copyOf, expect, ours, pageText, pdfText, pick, test } from './support'
import type { Page } from '@playwright/test'

interface Row {
  number: string
  kind: string
  total: string | number
}
/** Rows of the report as the command line gets them, and an amount as the page prints it. */
async function rowsOf(page: Page, report: string): Promise<Row[]> {
  return (await (
    await page.request.post('/api/order', { ...ours, data: { report, answers: {}, output: { format: 'json' } } })
  ).json()) as Row[]
}
const money = (amount: number) => amount.toLocaleString('en-GB', { minimumFractionDigits: 2, maximumFractionDigits: 2 }).replace('-', '−')
const cents = (rows: readonly Row[]) => rows.reduce((sum, row) => sum + Math.round(Number(row.total) * 100), 0) / 100

test('a grouped list from an empty report, by mouse: draft, column, group, totals, looks, theme, run', async ({ page }) => {
  await page.goto('/new?shelf=Tests')
  await page.getByLabel('Find a table by name, comment or value').fill('invoices')
  await page.locator('[data-table="invoices"]').click()
  await page.getByLabel('Name of the report').fill('Grouped by mouse')
  await page.getByRole('button', { name: 'Start with this table' }).click()
  await expect(page.locator('[data-row-count]')).toContainText('invoices')
  await page.getByRole('button', { name: 'Fields of Invoice', exact: true }).click()
  await page.locator('[data-level="invoice"]').getByLabel('Total', { exact: true }).click()
  await expect(page.locator('[data-nested] thead, [data-flat] thead').first()).toContainText('Total')
  await page.getByRole('link', { name: 'Page' }).click()
  const text = pageText(page)
  await expect(text).toContainText('Grouped by mouse')
  // a plain list is drafted anew, a column is put in from the fields
  await page.getByRole('button', { name: 'Draft', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Draft a plain list' }).click()
  // the draft’s foot says when it was printed
  await expect(text).toContainText(/\d{4}, \d{2}:\d{2}/)
  await clickCell(page, 'Invoice date')
  await page.getByLabel('Fields not ticked in Data, too').check()
  await page.locator('[data-field="invoice.kind"]').dblclick()
  await expect(text).toContainText(/Kind\s+Due date/)
  await clickCell(page, 'Kind')
  await page.locator('[data-field="invoice.total"]').scrollIntoViewIfNeeded()
  await page.locator('[data-field="invoice.total"]').dblclick()
  await expect(text).toContainText(/Kind\s+Total\s+Due date/)
  // grouped in one action: the totals stand where they belong by themselves
  await clickCell(page, 'Kind')
  await pick(page.getByLabel('Group by a field'), /^Kind$/)
  await expect(page.locator('[data-row-mark="groupStart_kind"]').first()).toBeVisible()
  // another kind of total, then none at the table's end
  await clickCell(page, 'Total')
  await page.getByLabel('at the end of the table').check()
  await pick(page.getByLabel('Kind of total'), 'highest')
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
  await pick(page.getByLabel('Kind of total'), 'sum')
  // a look by rule with a legend
  await page.locator('summary', { hasText: 'Looks by rule' }).click()
  await page.getByRole('button', { name: 'Add a look' }).click()
  await page.getByLabel('Legend under the table').check()
  // the theme changes all of it
  await pick(page.getByLabel('Theme', { exact: true }), 'ruled')
  await page.keyboard.press('Escape')
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
  await page.getByRole('button', { name: 'Publish', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Published' })).toBeVisible()
  await page.getByRole('button', { name: 'Run', exact: true }).click()
  await expect(page.locator('[data-run-count]')).toBeVisible({ timeout: 60_000 })
  // the subtotals and the total are those of a naive sum over all rows
  const rows = await rowsOf(page, 'Grouped by mouse')
  const count = Number((await page.locator('[data-run-count]').textContent())!.replace(/ .*/, '').replace(',', ''))
  const run = (await (await page.request.post('/api/runs', { ...ours, data: { report: 'Grouped by mouse', answers: {} } })).json()) as {
    id: string
  }
  await expect
    .poll(async () => ((await (await page.request.get(`/api/runs/${run.id}?wait=1&pages=0&seen=0`)).json()) as { state: string }).state, {
      timeout: 60_000,
    })
    .toBe('done')
  const pages = (await (await page.request.get(`/api/runs/${run.id}/pages?from=${count - 3}&to=${count}`)).json()) as {
    items: { text?: string }[]
  }[]
  const printed = pages.flatMap(each => each.items.map(item => item.text))
  expect(printed).toContain(money(cents(rows)))
  expect(printed).toContain(money(cents(rows.filter(row => row.kind === 'invoice'))))
})

test('the same by keyboard alone: commands, arrows, writing in place, groups, themes, undo', async ({ page }) => {
  const id = await copyOf(page, 'Register from one text', 'Grouped by keyboard')
  await page.goto(`/reports/${id}/page`)
  const text = pageText(page)
  await expect(text).toContainText('Number')
  const command = async (words: string) => {
    await page.keyboard.press('Control+k')
    await page.getByPlaceholder('What would you like to do?').fill(words)
    await expect(page.getByRole('option').first()).toContainText(words)
    await page.keyboard.press('Enter')
    await expect(page.getByPlaceholder('What would you like to do?')).toBeHidden()
  }
  // into the sheet, to the titles of the table, and a title written anew
  await page.locator('[data-page="0"] [tabindex="0"]').focus()
  await page.keyboard.press('ArrowDown')
  const formula = async () =>
    (await page.locator('[data-formula]').count()) ? ((await page.locator('[data-formula]').textContent()) ?? '') : ''
  for (let step = 0; step < 12 && !/“(Number|Date|Customer|Lines|Tax|Total)”/.test(await formula()); step++)
    await page.keyboard.press('ArrowDown')
  for (let step = 0; step < 12 && !(await formula()).includes('“Number”'); step++) await page.keyboard.press('ArrowLeft')
  await expect(page.locator('[data-formula]')).toContainText('“Number”')
  await page.keyboard.press('Enter')
  await page.getByLabel('Text of the cell').fill('Document')
  await page.keyboard.press('Enter')
  await expect(text).toContainText('Document')
  // grouped by a command; the currency's totals come with it
  await command('Group by currency')
  await expect(text).toContainText(/Total EUR|EUR/)
  await expect(page.locator('[data-row-mark="groupEnd_currency"]').first()).toBeVisible()
  await command('Theme banded')
  // a second column by the keyboard, then gone again
  await page.locator('[data-page="0"] [tabindex="0"]').focus()
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect(page.locator('[data-row-mark="groupEnd_currency"]')).toHaveCount(0)
  await page.keyboard.press('Control+y')
  await expect(page.locator('[data-row-mark="groupEnd_currency"]').first()).toBeVisible()
  // what is found on the sheet is selected, and its trace opens by a key
  await page.keyboard.press('Control+f')
  await page.getByLabel('Find on the sheet').last().fill('Total EUR')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-formula]')).toContainText('group.name')
  await page.keyboard.press('Escape')
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
})

test('trace shows the records behind a figure, and they add up to it', async ({ page }) => {
  const id = await copyOf(page, 'Top ten customers', 'Traced')
  await page.goto(`/reports/${id}/page`)
  await expect(pageText(page)).toContainText('All others')
  const amount = await page.evaluate(() => {
    const { pages } = (
      window as unknown as {
        estanteSheet: () => {
          pages: ReadonlyMap<
            number,
            {
              boxes: { rowId?: string; cell?: string; x: number; y: number; width: number; height: number }[]
              items: { text?: string; x: number; y: number }[]
            }
          >
        }
      }
    ).estanteSheet()
    const drawn = pages.get(0)!
    const box = drawn.boxes.find(each => each.rowId === 'buyers' && each.cell === 'sales')!
    return drawn.items.find(
      item => item.text && item.x >= box.x && item.x < box.x + box.width && item.y > box.y && item.y < box.y + box.height,
    )!.text!
  })
  await clickCell(page, amount)
  await page.keyboard.press('t')
  const drawer = page.locator('[data-trace]')
  await expect(drawer.locator('[data-trace-sum]')).toHaveText(`add up to ${amount}`)
  const parts = await drawer.locator('tbody tr td:last-child').allTextContents()
  expect(money(parts.reduce((sum, part) => sum + Math.round(Number(part.replace('−', '-').replaceAll(',', '')) * 100), 0) / 100)).toBe(
    amount,
  )
  await expect(page.getByRole('button', { name: `${parts.length} invoices behind it` })).toBeVisible()
})

test('layouts: a copy, renamed, the default, and chosen when run; versions beside the pages of now', async ({ page }) => {
  const id = await copyOf(page, 'Sales invoice', 'Two layouts')
  await page.goto(`/reports/${id}/page`)
  await expect(pageText(page)).toContainText(/Invoice INV/)
  await page.getByRole('button', { name: 'Layouts' }).click()
  await page.getByRole('menuitem', { name: 'Compact' }).click()
  await expect(pageText(page)).toContainText(/Fatura|Faktura|Payment slip/)
  await page.getByRole('button', { name: 'Layouts' }).click()
  await page.getByRole('menuitem', { name: 'Copy this layout' }).click()
  // a menu that closes gives the focus back to its button
  await expect(page.getByRole('menu')).toHaveCount(0)
  await page.getByLabel('Name of this layout').fill('Third')
  await page.getByLabel('Name of this layout').press('Enter')
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
  const saved = (await (await page.request.get(`/api/reports/${id}`)).json()) as { definition: { layouts: { name: string }[] } }
  expect(saved.definition.layouts.map(layout => layout.name)).toEqual(['Standard', 'Compact', 'Third'])
  await page.getByRole('button', { name: 'Publish', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Published' })).toBeVisible()
  await page.goto(`/run/${id}?page-layout=Compact`)
  await expect(pageText(page)).toContainText(/Fatura|Faktura|Payment slip/)
  await pick(page.getByLabel('Layout', { exact: true }), 'Standard')
  await expect(pageText(page)).toContainText(/Bill to/)
  // versions
  await page.goto(`/reports/${id}/page`)
  await page.getByRole('button', { name: 'Versions' }).click()
  const versions = page.locator('[data-versions]')
  await versions.getByLabel('Name of version 1', { exact: true }).fill('As it came')
  await versions.getByLabel('Name of version 1', { exact: true }).press('Tab')
  await versions.getByRole('button', { name: /^1 / }).click()
  await expect(versions.locator('[data-page-text]').first()).toContainText(/Bill to/)
  await expect(versions.getByLabel('Name of version 1', { exact: true })).toHaveValue('As it came')
})

test('blocks: a panel with a code and a box, moved by keys, duplicated, dragged on the rail, copied to another report', async ({
  page,
}) => {
  const id = await copyOf(page, 'Price list', 'Blocks')
  await page.goto(`/reports/${id}/page`)
  await expect(pageText(page)).toContainText('Antifouling')
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Panel', exact: true }).click()
  await page.getByRole('button', { name: 'Block up' }).click()
  await expect(page.locator('[data-bracket="panel"]').first()).toBeVisible()
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await page.getByRole('menuitem', { name: 'QR code' }).click()
  await expect(page.getByText('This code').first()).toBeVisible()
  // a menu that is closing gives the focus back to its button
  await expect(page.getByRole('menu')).toHaveCount(0)
  await expect(page.getByRole('button', { name: 'Add', exact: true })).toBeFocused()
  await page.locator('[data-page="0"] [tabindex="0"]').focus()
  const before = await page.evaluate(
    () =>
      (window as unknown as { estanteSheet: () => { pages: ReadonlyMap<number, { boxes: { cell?: string; x: number }[] }> } })
        .estanteSheet()
        .pages.get(0)!
        .boxes.find(box => box.cell === 'code1')!.x,
  )
  await page.keyboard.press('Alt+Shift+ArrowRight')
  await expect
    .poll(() =>
      page.evaluate(
        () =>
          (window as unknown as { estanteSheet: () => { pages: ReadonlyMap<number, { boxes: { cell?: string; x: number }[] }> } })
            .estanteSheet()
            .pages.get(0)!
            .boxes.find(box => box.cell === 'code1')!.x,
      ),
    )
    .toBe(before + 10)
  await page.keyboard.press('Control+d')
  await expect(page.locator('[data-bracket="panel2"]').first()).toBeVisible()
  await page.keyboard.press('Control+c')
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
  const other = await copyOf(page, 'Top ten customers', 'Blocks too')
  await page.goto(`/reports/${other}/page`)
  await expect(pageText(page)).toContainText('All others')
  await page.locator('[data-page="0"] [tabindex="0"]').focus()
  await page.keyboard.press('Control+v')
  await expect(page.locator('[data-bracket="panel"]').first()).toBeVisible()
})

test('one PDF for each document, named as the layout says, in one ZIP file', async ({ page }, info) => {
  const run = (await (await page.request.post('/api/runs', { ...ours, data: { report: 'Salesperson sheets', answers: {} } })).json()) as {
    id: string
  }
  await expect
    .poll(async () => ((await (await page.request.get(`/api/runs/${run.id}?wait=1&pages=0&seen=0`)).json()) as { state: string }).state, {
      timeout: 60_000,
    })
    .toBe('done')
  const { outline, pages } = (await (await page.request.get(`/api/runs/${run.id}?pages=0&seen=0`)).json()) as {
    outline: { label: string; page: number }[]
    pages: number
  }
  const files = unzipSync(new Uint8Array(await (await page.request.get(`/api/runs/${run.id}/file?format=zip`)).body()))
  expect(Object.keys(files).sort()).toEqual(outline.map(each => `Sales of ${each.label}.pdf`).sort())
  // each holds its own pages and no other's
  let sum = 0
  for (const [index, { label }] of outline.entries()) {
    const file = info.outputPath(`document${index}.pdf`)
    writeFileSync(file, files[`Sales of ${label}.pdf`]!)
    const texts = pdfText(file)
    sum += texts.length
    expect(texts[0]).toContain(label)
    expect(texts.length).toBe((outline[index + 1]?.page ?? pages) - outline[index]!.page)
  }
  expect(sum).toBe(pages)
})

test('a letterhead is kept once and stands on every layout that wants it', async ({ page }) => {
  const first = await copyOf(page, 'Top ten customers', 'Head giver')
  await page.goto(`/reports/${first}/page`)
  await expect(pageText(page)).toContainText('All others')
  await page.getByRole('button', { name: 'Keep this page top as the letterhead of all reports' }).click()
  await expect(page.getByLabel('The letterhead of all reports')).toBeVisible()
  const second = await copyOf(page, 'Price list', 'Head taker')
  await page.goto(`/reports/${second}/page`)
  await expect(pageText(page)).toContainText('Price list')
  await page.getByLabel('The letterhead of all reports').check()
  await expect(pageText(page)).toContainText('Top ten customers')
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
})
