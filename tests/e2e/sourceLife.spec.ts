import { readFileSync } from 'node:fs'
import { startMariadb, type TestMariadb } from '../mariadb'
import { expect, pick, test } from './support'

const given = (name: string, text: string) => ({ name, mimeType: 'text/csv', buffer: Buffer.from(text) })

test('files are brought again: what changes is told, a report that would break keeps them out, and it can be gone back', async ({
  page,
}) => {
  await page.goto('/sources')
  await page.getByRole('button', { name: 'Add files' }).click()
  const panel = page.locator('[data-add-files]')
  await panel
    .getByLabel('Files of a new source')
    .setInputFiles([given('berths.csv', 'Berth,Length\nQ1,12.5\nQ2,18\n'), given('cranes.csv', 'Crane,Reach\nC1,40\n')])
  await panel.getByLabel('Name of the source').fill('Quay office')
  await panel.getByRole('button', { name: 'Take in 2 tables' }).click()
  await expect(panel).toBeHidden({ timeout: 60_000 })
  await page.goto('/new')
  await pick(page.getByLabel('Source', { exact: true }), 'Quay office')
  await page.getByText('Berths', { exact: true }).first().click()
  await page.getByRole('button', { name: 'Start with this table' }).click()
  await expect(page).toHaveURL(/\/data$/)

  await page.goto('/sources')
  await page.getByRole('button', { name: 'Quay office' }).click()
  await page.getByRole('button', { name: 'Bring files again' }).click()
  await expect(panel.getByRole('heading', { name: 'Files for Quay office' })).toBeVisible()
  await panel.getByLabel('Files of a new source').setInputFiles([given('berths.csv', 'Berth,Depth\nQ1,4.5\n')])
  await expect(panel.locator('[data-effect]')).toHaveText('Takes the place of “berths”, with other columns (new: “depth”; gone: “length”).')
  await panel.getByRole('button', { name: 'Take in', exact: true }).click()
  await expect(panel.getByText('Nothing was taken in, because “Berths” would break', { exact: false })).toBeVisible({ timeout: 60_000 })
  await panel.getByRole('button', { name: 'Take them in all the same' }).click()
  await expect(panel).toBeHidden({ timeout: 60_000 })
  await expect(page.getByText('Depth', { exact: true }).first()).toBeVisible()
  await page.getByRole('button', { name: 'Go back' }).click()
  await page.getByRole('menuitem', { name: /· 3 rows/ }).click()
  await expect(page.getByText('Length', { exact: true }).first()).toBeVisible({ timeout: 30_000 })

  // its name, and its settings as a file
  await page.getByLabel('More of this source').click()
  await page.getByRole('menuitem', { name: 'Name and connection' }).click()
  const edit = page.locator('[data-edit-files]')
  await edit.getByLabel('Name of the source').fill('Harbour master')
  await edit.getByLabel('Folder that is watched').fill('/etc')
  await edit.getByRole('button', { name: 'Change' }).click()
  await expect(edit.getByText('The folder /etc may not be watched', { exact: false })).toBeVisible()
  await edit.getByLabel('Folder that is watched').fill('')
  await edit.getByRole('button', { name: 'Change' }).click()
  await expect(page.getByRole('navigation', { name: 'Sources' }).locator('[aria-current]')).toContainText('Harbour master')
  await page.getByLabel('More of this source').click()
  const saved = page.waitForEvent('download')
  await page.getByRole('menuitem', { name: 'Export its settings' }).click()
  const path = await (await saved).path()
  const settings = JSON.parse(readFileSync(path, 'utf8')) as { columns: Record<string, { caption: string }> }
  settings.columns = { 'berths.length': { caption: 'Metres of quay' } }
  const settingsFile = page.getByLabel('Settings of a source')
  await settingsFile.setInputFiles({ name: 'kept.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(settings)) })
  await expect(page.getByText('Metres of quay').first()).toBeVisible()
  await settingsFile.setInputFiles({ name: 'none.json', mimeType: 'application/json', buffer: Buffer.from('{') })
  await expect(page.getByText('“none.json” holds no settings of a source', { exact: false })).toBeVisible()
})

let server: TestMariadb
test.describe('a copy', () => {
  test.beforeAll(async () => {
    server = await startMariadb()
    server.sql(`create database shop; create user reader identified by 'quay'; grant select on shop.* to reader; use shop;
      create table orders (id int primary key, total decimal(12,2), changed datetime not null);
      insert into orders select seq, seq * 1.25, '2026-01-01' from seq_1_to_200000; create table notes (body varchar(20));`)
  })
  test.afterAll(() => server.stop())

  test('is refreshed by what changed once that is said, and a refresh that is stopped leaves all as it was', async ({ page }) => {
    await page.goto('/sources')
    await page.getByRole('button', { name: 'Connect a server' }).click()
    const panel = page.locator('[data-connect]')
    await panel.getByLabel('Name of the source').fill('Chandlery')
    await pick(panel.getByLabel('Kind'), 'MariaDB or MySQL, copied')
    await panel.getByLabel('Host').fill(`${server.folder}/s`)
    await panel.getByLabel('Database').fill('shop')
    await panel.getByLabel('User').fill('reader')
    await panel.getByLabel('Password').fill('quay')
    await panel.getByRole('button', { name: 'Try' }).click()
    await panel.getByRole('button', { name: 'Copy 2 tables' }).click()
    await expect(panel).toBeHidden({ timeout: 90_000 })
    const bar = page.locator('[data-sources]')
    await bar.getByRole('button', { name: 'Refresh' }).click()
    await bar.getByRole('button', { name: 'Stop' }).click()
    await expect(page.getByText('The refresh was stopped; all rows are as they were.')).toBeVisible()
    await expect(bar).toContainText('generation 1')

    await page.getByLabel('More of this source').click()
    await page.getByRole('menuitem', { name: 'Name and connection' }).click()
    await panel.getByRole('button', { name: 'Try' }).click()
    await pick(panel.getByLabel('How orders is refreshed'), 'what changed, by changed')
    await panel.getByRole('button', { name: 'Change' }).click()
    await expect(panel).toBeHidden({ timeout: 30_000 })
    server.sql(`use shop; update orders set total = 77, changed = now() where id = 7; delete from orders where id > 150000`)
    await bar.getByRole('button', { name: 'Refresh' }).click()
    await page.getByText('Orders', { exact: true }).first().click()
    await expect(page.getByText('about 150,000 rows')).toBeVisible({ timeout: 90_000 })
    await page.getByPlaceholder('A name, a comment, or a value').fill('77')
    await expect(page.getByText('1 row', { exact: true }).first()).toBeVisible()
  })
})
