import { execFileSync } from 'node:child_process'
import { test as base, expect, type Locator, type Page } from '@playwright/test'

/** A test that fails on any console error and on any request that leaves this machine. */
export const test = base.extend<{ watched: undefined }>({
  watched: [
    async ({ page }, use) => {
      const faults: string[] = []
      page.on('console', message => {
        if (message.type() === 'error') faults.push(message.text())
      })
      page.on('pageerror', error => faults.push(error.message))
      page.on('request', request => {
        const url = new URL(request.url())
        if (!['data:', 'blob:'].includes(url.protocol) && url.hostname !== '127.0.0.1') faults.push(`left the machine: ${request.url()}`)
      })
      await use(undefined)
      // a refused request is an answer of ours, told on the page
      const told = /the server responded with a status of (4\d\d|507)|Page not found: \/nothing-here/
      expect(faults.filter(fault => !told.test(fault))).toEqual([])
    },
    { auto: true },
  ],
})
export { expect }

/** What the page itself sends with whatever changes something, for requests a test makes beside it. */
export const ours = { headers: { origin: 'http://127.0.0.1:4791' } }

/** Picks one of a field's values by its words. */
export async function pick(field: Locator, words: string | RegExp): Promise<void> {
  await field.click()
  await field.page().getByRole('option', { name: words, exact: true }).click()
}

export async function reportId(page: Page, name = 'Sales invoice'): Promise<string> {
  const library = (await (await page.request.get('/api/library')).json()) as { reports: { id: string; name: string }[] }[]
  return library.flatMap(shelf => shelf.reports).find(report => report.name === name)!.id
}

/** A copy of a report under a name of its own, so that a test may change it; with its id. */
export async function copyOf(page: Page, name: string, copy: string): Promise<string> {
  const id = await reportId(page, name)
  const { definition } = (await (await page.request.get(`/api/reports/${id}`)).json()) as { definition: unknown }
  const made = await page.request.post('/api/reports', { ...ours, data: { name: copy, shelf: 'Tests', definition } })
  return ((await made.json()) as { id: string }).id
}

/** Text of the page in view, as screen readers get it. */
export const pageText = (page: Page, index = 0) => page.locator(`[data-page="${index}"] [data-page-text]`)

/** Rows of hand-written SQL, through the raw rows of the command's JSON: see the unit tests for the comparison with SQL itself. */
export function pdfText(file: string): string[] {
  return execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8', maxBuffer: 1 << 26 })
    .split('\f')
    .slice(0, -1)
}

/** Clicks the middle of a box of the layout on a page: `part` of `block`, in column or item `cell`. */
export async function clickCell(page: Page, text: string, options: { index?: number; double?: boolean } = {}): Promise<void> {
  const place = await cellPlace(page, text, options.index ?? 0)
  if (options.double) await page.mouse.dblclick(place.x, place.y)
  else await page.mouse.click(place.x, place.y)
}

/** Where a text stands on a page, in pixels of the window, found by what is drawn. */
export async function cellPlace(page: Page, text: string, index = 0): Promise<{ x: number; y: number }> {
  const at = await page.evaluate(
    ({ text, index }) => {
      const { pages } = (
        window as unknown as {
          estanteSheet: () => {
            pages: ReadonlyMap<number, { width: number; items: { kind: string; text?: string; x: number; y: number; size: number }[] }>
          }
        }
      ).estanteSheet()
      const drawn = pages.get(index)!
      const item = drawn.items.find(each => each.kind === 'text' && each.text === text)
      return item && { x: (item.x + 3) / drawn.width, y: item.y - item.size / 3, width: drawn.width }
    },
    { text, index },
  )
  if (!at) throw new Error(`“${text}” is not on page ${index + 1}`)
  const frame = (await page.locator(`[data-page="${index}"]`).boundingBox())!
  return { x: frame.x + at.x * frame.width, y: frame.y + (at.y * frame.width) / at.width }
}
