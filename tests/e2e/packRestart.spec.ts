import { type OwnServer, ownServer } from './ownServer'
import { expect, test } from './support'

let server: OwnServer
test.beforeAll(async () => {
  test.setTimeout(180_000)
  server = ownServer('4797', { ESTANTE_DEMO: 'on', ESTANTE_PEOPLE: 'none' })
  await server.said(/ready/)
})
test.afterAll(() => server.end())

test('a pack whose program is killed in the middle goes on when it is started again, and sends each letter once', async ({ page }) => {
  test.setTimeout(240_000)
  await page.goto(`${server.address}/packs`)
  await page.getByRole('button', { name: 'Run Month end' }).click()
  await expect(page).toHaveURL(/packs\/runs\//)
  await expect(page.getByText(/[1-8] of 9 reports done/)).toBeVisible({ timeout: 60_000 })
  const run = page.url()
  await page.goto('about:blank')
  await server.again()
  await server.said(/ready/)
  await page.goto(run)
  await expect(page.locator('[data-state="done"]')).toBeVisible({ timeout: 120_000 })
  await expect(page.locator('[data-delivery]').first()).toBeVisible()
  await expect(page.locator('[data-delivery]:not([data-delivery="sent"])')).toHaveCount(0)
  await expect(page.getByRole('link', { name: /\.pdf|PDF/ }).first()).toBeVisible()
  const sent = (await (await page.request.get(`${server.address}/api/outbox`)).json()) as { letters: { to: string[] }[] }
  const to = sent.letters.map(each => each.to.join())
  expect(to.length).toBe(2)
  expect(new Set(to).size).toBe(2)
})
