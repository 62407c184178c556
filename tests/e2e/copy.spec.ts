import { spawnSync } from 'node:child_process'
import { startMariadb, type TestMariadb } from '../mariadb'
import { expect, test } from './support'

let server: TestMariadb
test.beforeAll(async () => {
  server = await startMariadb()
  server.sql(`create database shop; create user reader identified by 'quay'; grant select on shop.* to reader; use shop;
    create table customers (id int primary key, name varchar(40)) comment 'Who buys';
    create table orders (id int primary key, customer_id int, total decimal(12,2), foreign key (customer_id) references customers (id));
    insert into customers values (1, 'Alcyon'), (2, 'Bela Vista');
    insert into orders select seq, 1 + seq % 2, seq * 1.25 from seq_1_to_3000`)
})
test.afterAll(() => server.stop())

test('a MariaDB is tried and copied; the copy is refreshed, and gone back to', async ({ page }) => {
  await page.goto('/sources')
  await page.getByRole('button', { name: 'Connect a server' }).click()
  const panel = page.locator('[data-connect]')
  await panel.getByLabel('Name of the source').fill('Web shop')
  await panel.getByLabel('Kind').click()
  await page.getByRole('option', { name: 'MariaDB or MySQL, copied' }).click()
  await panel.getByLabel('Host').fill(`${server.folder}/s`)
  await panel.getByLabel('Database').fill('shop')
  await panel.getByLabel('User').fill('reader')
  await panel.getByLabel('Password').fill('quay')
  await panel.getByRole('button', { name: 'Try' }).click()
  const found = page.locator('[data-tried]')
  await expect(found).toContainText('Version 1')
  await expect(found.getByRole('checkbox', { name: /customers · 2 columns/ })).toBeChecked()
  await panel.getByRole('button', { name: 'Copy 2 tables' }).click()
  await expect(panel).toBeHidden({ timeout: 60_000 })
  const bar = page.locator('[data-sources]')
  await expect(bar).toContainText(/2 tables · from reader@localhost\/shop · rows as of \d\d:\d\d/)
  await page.getByText('Orders', { exact: true }).first().click()
  await expect(page.getByText('about 3,000 rows')).toBeVisible()

  server.sql('use shop; delete from orders where id > 2000')
  await bar.getByRole('button', { name: 'Refresh' }).click()
  await expect(page.getByText('about 2,000 rows')).toBeVisible({ timeout: 60_000 })
  await bar.getByRole('button', { name: 'Go back' }).click()
  await page.getByRole('menuitem', { name: /3,002 rows/ }).click()
  await expect(page.getByText('about 3,000 rows')).toBeVisible({ timeout: 30_000 })

  // a refresh that fails says why, and nothing is lost
  server.sql(`alter user reader identified by 'another'`)
  await bar.getByRole('button', { name: 'Refresh' }).click()
  await expect(page.getByText('does not know “reader” with this password', { exact: false }).first()).toBeVisible({ timeout: 60_000 })
  await expect(page.getByText('about 3,000 rows')).toBeVisible()
})

test('a copy is made, refreshed and checked from the command line', () => {
  test.setTimeout(180_000)
  server.sql(`alter user reader identified by 'quay'`)
  const run = (...args: string[]) => {
    const done = spawnSync(process.execPath, ['.build/cli/estante.mjs', 'source', ...args, '--data', '.build/e2e-data'], {
      encoding: 'utf8',
      env: { ...process.env, ESTANTE_ROOT: process.cwd(), ESTANTE_PASSWORD: 'quay' },
    })
    return { status: done.status, told: done.stderr, line: done.stdout ? (JSON.parse(done.stdout) as Record<string, unknown>) : undefined }
  }
  const url = server.as('reader')
  expect(run('add', 'Shop by command', '--url', url).told).toContain('write --copy to copy the tables of this one')
  const added = run('add', 'Shop by command', '--url', url, '--copy', '--tables', 'customers')
  expect(added).toMatchObject({ status: 0, told: '' })
  expect(added.line).toMatchObject({
    source: 'Shop by command',
    tables: [{ name: 'customers', rows: 2, key: ['id'], columns: [{ name: 'id', type: 'number' }, { name: 'name' }] }],
  })
  server.sql(`use shop; insert into customers values (3, 'Santa Rita')`)
  expect(run('refresh', 'Shop by command').line).toMatchObject({ source: 'Shop by command', generation: 2, rows: 3 })
  expect(run('check', 'Shop by command').line).toMatchObject({ reached: true, tables: 1, reports: [] })
  expect(run('refresh', 'Cais Velho').told).toContain('“Cais Velho” is no copy of a database')
  expect(run('refresh', 'Nowhere').told).toContain('There is no source “Nowhere”')
})
