import { readFileSync } from 'node:fs'
import { strFromU8, unzipSync } from 'fflate'
import { PDFDocument, PDFName } from 'pdf-lib'
import { copyOf, expect, reportId, test } from './support'

test('an e-invoice is mapped beside the page: proposed, and what is wrong told with its rule', async ({ page }) => {
  const id = await copyOf(page, 'Sales invoice', 'Invoices by law')
  await page.goto(`/reports/${id}/page`)
  await page.getByRole('button', { name: 'Select invoice' }).first().press('Enter')
  const section = page.locator('[data-einvoice]')
  await expect(section).toBeVisible()
  // taken away and proposed anew, by the keyboard
  await section.focus()
  await section.press('Space')
  await expect(page.locator('[data-terms]')).toHaveCount(0)
  await section.press('Space')
  await expect(page.locator('[data-terms="document"]')).toContainText('BT-1 Invoice number')
  await expect(page.locator('[data-terms="BG-25"]').getByRole('textbox', { name: /BT-146/ })).toHaveValue('unit_price')
  // a total that is not the sum of its parts
  const due = page.locator('[data-terms="document"]').getByRole('textbox', { name: /BT-115/ })
  await due.click()
  // the editor comes when it is first needed
  await expect(page.locator('[data-terms="document"] .cm-content')).toBeFocused()
  await page.keyboard.press('ControlOrMeta+a')
  await page.keyboard.type('total + 1')
  // what is written holds when the field is left
  await section.focus()
  await expect(page.getByText(/The amount due \(BT-115\) is .*\(BR-CO-16\)/).first()).toBeVisible()
})

test('documents of a run come as PDF with their invoice within, and as XML', async ({ page }) => {
  await page.goto(`/run/${await reportId(page, 'Sales invoice')}`)
  await expect(page.locator('[data-run-count]')).toBeVisible({ timeout: 60_000 })
  const taken = async (name: string) => {
    await page.getByRole('button', { name: 'Download as …' }).click()
    const menu = page.locator('[data-download]')
    await menu.getByRole('tab', { name }).click()
    const coming = page.waitForEvent('download')
    await menu.getByRole('button', { name: 'Download' }).click()
    const file = await coming
    expect(file.suggestedFilename()).toMatch(/\.zip$/)
    return unzipSync(new Uint8Array(readFileSync(await file.path())))
  }
  const hybrids = Object.entries(await taken('E-invoices, PDF with XML'))
  const xmls = await taken('E-invoices, CII')
  expect(hybrids.length).toBeGreaterThan(50)
  expect(hybrids.map(([name]) => name.replace('.pdf', '.xml'))).toEqual(Object.keys(xmls))
  const [name, bytes] = hybrids[0]!
  const document = await PDFDocument.load(bytes)
  expect(document.catalog.get(PDFName.of('AF'))).toBeTruthy()
  expect(strFromU8(xmls[name.replace('.pdf', '.xml')]!)).toContain(`<ram:ID>${name.replace('.pdf', '')}</ram:ID>`)
})
