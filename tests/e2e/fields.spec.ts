import { clickCell, copyOf, expect, pageText, test } from './support'

test('what is typed in a setting goes to what was chosen then, within its bounds, and Escape brings back what was there', async ({
  page,
}) => {
  await page.goto(`/reports/${await copyOf(page, 'Sales invoice', 'Typed')}/page`)
  await expect(pageText(page)).toContainText('Unit')
  await clickCell(page, 'Qty')
  const title = page.getByLabel('Title', { exact: true })
  await title.fill('Count')
  // a press on another cell takes it first, for the column that it was typed for
  await clickCell(page, 'Price')
  await expect(title).toHaveValue('Price')
  await expect(pageText(page)).toContainText('Count')
  await title.fill('Never')
  await title.press('Escape')
  await expect(title).toHaveValue('Price')
  await title.fill('Price each')
  await title.press('Enter')
  await expect(pageText(page)).toContainText('Price each')
  await expect(pageText(page)).not.toContainText('Never')
  const width = page.getByLabel('Width in millimetres')
  await width.fill('2')
  await width.press('Enter')
  await expect(width).toHaveValue('6')
  await width.press('ArrowUp')
  await expect(width).toHaveValue('7')
  // without a width the column takes what is left
  await width.fill('')
  await width.press('Enter')
  await expect(width).toHaveValue('')
  await expect(width).toHaveAttribute('placeholder', 'rest')
})
