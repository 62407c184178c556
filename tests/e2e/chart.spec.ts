import { expect, test } from '@playwright/test'
import { copyOf, pick } from './support'

test('a chart of a crosstab by the keyboard, changed to a pie by the mouse; a mark leads to its records', async ({ page }) => {
  const id = await copyOf(page, 'Sales grid', 'Charted grid')
  await page.goto(`/reports/${id}/page`)
  const text = page.locator('[data-page-text]')
  await expect(text.first()).toContainText('Sales grid')
  // with the keyboard alone: the menu, a few letters, Enter
  await page.getByRole('button', { name: 'Add', exact: true }).first().focus()
  await page.keyboard.press('Enter')
  await page.keyboard.type('chart of “grid')
  await page.keyboard.press('Enter')
  await expect(page.getByLabel('What the chart draws')).toBeVisible()
  // its words for those who do not see it stand with the text of its page
  await expect.poll(async () => (await text.allTextContents()).join('\n')).toMatch(/bars side by side of .* by \d+ categories/)
  await pick(page.getByLabel('Form of the chart'), 'a pie')
  await expect.poll(async () => (await text.allTextContents()).join('\n')).toMatch(/a pie: \d+ parts, the largest /)
  await page.getByLabel('Title of the chart').fill('Where it went')
  await page.keyboard.press('Enter')
  await expect.poll(async () => (await text.allTextContents()).join('\n')).toContain('Where it went, a pie')
})

test('a chart of a level: figures, series and an axis of its own; its marks tell their figures and their records', async ({ page }) => {
  const id = await copyOf(page, 'Sales charts', 'Charts of mine')
  await page.goto(`/reports/${id}/page`)
  const text = page.locator('[data-page-text]').first()
  await expect(text).toContainText('Sales by month against the year before')
  const mark = await page.evaluate(() => {
    const sheet = (
      window as unknown as {
        estanteSheet(): { pages: Map<number, { boxes: { block: string; cell?: string; label?: string; x: number; y: number }[] }> }
      }
    ).estanteSheet()
    return sheet.pages.get(0)!.boxes.find(box => box.block === 'months' && box.cell?.startsWith('before') && box.label)
  })
  expect(mark?.label).toMatch(/ · /)
  const canvas = page.locator('canvas').first()
  const frame = (await canvas.boundingBox())!
  const scale = frame.width / 841.89
  await page.mouse.move(frame.x + (mark!.x + 2) * scale, frame.y + (mark!.y + 2) * scale)
  await expect(page.locator('[role=group][title]').first()).toHaveAttribute('title', mark!.label!)
  await page.mouse.click(frame.x + (mark!.x + 2) * scale, frame.y + (mark!.y + 2) * scale)
  await expect(page.getByLabel('What the chart draws')).toBeVisible()
  await pick(page.getByLabel('Form of the chart'), 'bars in falling order')
  await expect(text).toContainText('in falling order with their running share')
})
