import { execFileSync, spawnSync } from 'node:child_process'
import { readFileSync, writeFileSync } from 'node:fs'
import { cellPlace, clickCell, copyOf, expect, ours, pageText, pdfText, pick, reportId, test } from './support'

test('the library shows the report as its own first page', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { name: 'Invoicing' })).toBeVisible()
  await expect(page.locator('[data-page-text]').first()).toContainText('Total due')
  // by keyboard: E edits
  await page.getByLabel(/Sales invoice: Enter runs/).focus()
  await page.keyboard.press('e')
  await expect(page).toHaveURL(/\/reports\/.*\/page$/)
})

test('Data: the ladder, the rows nested and flat, the statements; joining and ticking change the rows', async ({ page }) => {
  await page.goto(`/reports/${await copyOf(page, 'Sales invoice', 'Data looked at')}/data`)
  for (const level of ['invoice', 'lines', 'taxes']) await expect(page.locator(`[data-level="${level}"]`)).toBeVisible()
  await expect(page.locator('[data-level="invoice"]')).toContainText(
    /branch[\s\S]*customer[\s\S]*town[\s\S]*region[\s\S]*payment term[\s\S]*salesperson/,
  )
  await expect(page.locator('[data-level="lines"]')).toContainText(/item[\s\S]*category[\s\S]*unit/)
  const rows = await page.request.post('/api/order', {
    ...ours,
    data: { report: 'Sales invoice', answers: {}, output: { format: 'json' } },
  })
  const invoices = (await rows.json()) as { lines: unknown[] }[]
  await expect(page.locator('[data-row-count]')).toHaveText(`${invoices.length} invoices`)
  // an invoice opens to its lines
  await expect(page.locator('[data-nested] [data-detail="lines"]').first()).toContainText(`${invoices[0]!.lines.length} line`)
  await page.locator('[data-root-row="1"]').getByRole('button', { name: 'Details' }).click()
  await expect(page.locator('[data-detail="lines"]')).toHaveCount(2)
  // flat warns that header fields repeat
  await page.getByRole('button', { name: 'Flat' }).click()
  await expect(page.getByText('Fields of invoice repeat on each row here')).toBeVisible()
  const lines = invoices.reduce((sum, invoice) => sum + invoice.lines.length, 0)
  await expect(page.locator('[data-flat] tbody tr')).toHaveCount(Math.min(500, lines))
  // each level's statement
  await page.getByRole('button', { name: 'SQL' }).click()
  await expect(page.locator('[data-sql]')).toHaveCount(4)
  await expect(page.locator('[data-sql]').nth(2)).toContainText('"invoice_lines"')
  // a related record, found by its foreign key
  await page.getByRole('button', { name: 'Nested' }).click()
  await page.getByRole('button', { name: 'Join to Invoice', exact: true }).click()
  await page.getByRole('button', { name: /Order of this invoice/ }).click()
  await expect(page.locator('[data-nested] thead').first()).toContainText('Order number')
  await page.keyboard.press('Escape')
  // a detail level
  await page.getByRole('button', { name: 'Join to Invoice', exact: true }).click()
  await page.getByRole('button', { name: /Applications of this invoice, where it is the invoice/ }).click()
  await expect(page.locator('[data-detail="applications_by_invoice"]').first()).toBeVisible()
  await page.keyboard.press('Escape')
  // ticking a field off and on
  await page.getByRole('button', { name: 'Fields of Invoice', exact: true }).click()
  await page.locator('[data-level="invoice"]').getByLabel('Freight', { exact: true }).click()
  await expect(page.locator('[data-nested] thead').first()).not.toContainText('Freight')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.locator('[data-nested] thead').first()).toContainText('Freight')
  await page.getByRole('button', { name: 'Menu of Applications by invoice', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Take out' }).click()
  await page.getByRole('button', { name: 'Remove order' }).click({ force: true })
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
})

test('Data: a filter that cannot be used says so and changes nothing', async ({ page }) => {
  await page.goto(`/reports/${await copyOf(page, 'Sales invoice', 'Filtered wrongly')}/data`)
  await page.getByRole('button', { name: 'Add a filter' }).click()
  await page.getByRole('button', { name: 'As a formula' }).click()
  await page.getByLabel('Filter formula').fill('totl > 5')
  await page.getByRole('button', { name: 'Use', exact: true }).click()
  await expect(page.getByRole('alert')).toHaveText('There is no field “totl” here; the nearest is “total”.')
  await page.getByLabel('Filter formula').fill('total > 9000')
  await page.getByRole('button', { name: 'Use', exact: true }).click()
  await expect(page.locator('[data-row-count]')).not.toContainText('84')
  await page.getByRole('button', { name: 'Undo' }).click()
})

test('Page: select, write, format, add columns, widen, delete, undo and redo', async ({ page }) => {
  const id = await copyOf(page, 'Sales invoice', 'Edited')
  await page.goto(`/reports/${id}/page`)
  const text = pageText(page)
  await expect(text).toContainText(/Invoice INV-\d+ · page 1 of \d/)
  // a title, written in place by double click
  await clickCell(page, 'Qty', { double: true })
  await page.getByLabel('Text of the cell').fill('Quantity')
  await page.keyboard.press('Enter')
  await expect(text).toContainText('Quantity')
  // undo and redo by keyboard
  await page.keyboard.press('Control+z')
  await expect(text).toContainText('Qty')
  await page.keyboard.press('Control+y')
  await expect(text).toContainText('Quantity')
  // a field into a cell by typing /
  await clickCell(page, 'Unit')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await page.getByLabel('Text of the cell').press('End')
  await page.getByLabel('Text of the cell').pressSequentially(' /line no')
  await expect(page.locator('[data-picker]')).toContainText('Line no')
  await page.keyboard.press('Enter')
  await expect(page.getByLabel('Text of the cell')).toHaveValue('{{ unit.code }} {{ line_no }}')
  await page.keyboard.press('Enter')
  await expect(text).toContainText(/\b(m|pc|tin|box|h) 1\b/)
  await page.keyboard.press('Control+z')
  // a format holds for every cell and total of the field
  await clickCell(page, 'Amount')
  await page.keyboard.press('ArrowDown')
  await pick(page.getByLabel('Format'), /^1,205 +−/)
  await expect(text).toContainText(/Lines\s+[\d,]+\s/)
  await page.keyboard.press('Control+z')
  // drag a field onto a column's edge
  const at = await cellPlace(page, 'Price')
  const field = page.locator('[data-field="lines.item.category.name"]')
  await field.scrollIntoViewIfNeeded()
  await field.hover()
  await page.mouse.down()
  await page.mouse.move(at.x - 60, at.y + 20, { steps: 4 })
  const edge = await page.evaluate(() => {
    const { pages } = (
      window as unknown as {
        estanteSheet: () => { pages: ReadonlyMap<number, { boxes: { block: string; cell?: string; x: number }[]; width: number }> }
      }
    ).estanteSheet()
    const drawn = pages.get(0)!
    return drawn.boxes.find(box => box.block === 'lines' && box.cell === 'price')!.x / drawn.width
  })
  const frame = (await page.locator('[data-page="0"]').boundingBox())!
  await page.mouse.move(frame.x + edge * frame.width + 3, at.y + 20, { steps: 4 })
  await expect(page.locator('[data-drop]')).toBeVisible()
  await page.mouse.up()
  await expect(text).toContainText('Category')
  // drag a column's width: the description gives what the column takes
  await clickCell(page, 'Category')
  const handle = page.locator('[data-page="0"] [data-edge="column1"]')
  const box = (await handle.boundingBox())!
  await page.mouse.move(box.x + 3, box.y + 12)
  await page.mouse.down()
  await page.mouse.move(box.x + 40, box.y + 12, { steps: 5 })
  await page.mouse.up()
  const width = Number(await page.getByLabel('Width in millimetres').inputValue())
  expect(width).toBeGreaterThan(30)
  // delete it again by key
  await clickCell(page, 'Category')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Delete')
  await expect(text).not.toContainText('Category')
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
  // all of it is in the store
  const saved = (await (await page.request.get(`/api/reports/${id}`)).json()) as { definition: { layouts: unknown[] } }
  expect(JSON.stringify(saved.definition.layouts)).toContain('"text":"Quantity"')
})

test('Page: a faulty formula is a notice; its page stays usable', async ({ page }) => {
  await page.goto(`/reports/${await copyOf(page, 'Sales invoice', 'Faulty')}/page`)
  await expect(pageText(page)).toContainText('Total due')
  await clickCell(page, 'Price')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('F2')
  await page.getByLabel('Text of the cell').fill('{{ unit_prise }}')
  await expect(page.getByRole('alert')).toContainText('There is no field “unit_prise” here; the nearest is “unit_price”.')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-notices]')).toContainText('1 notice')
  await page.keyboard.press('Control+z')
  await expect(page.locator('[data-notices]')).toHaveCount(0)
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
})

test('Run: answers, outline, and a PDF that is the same as the screen', async ({ page }, info) => {
  await page.goto(`/run/${await reportId(page)}`)
  await expect(page.locator('[data-run-count]')).toContainText('pages')
  await page.locator('#answer-month').click()
  await page.getByRole('option', { name: 'September 2026' }).click()
  await expect(page).toHaveURL(/month=2026-09/)
  await expect(pageText(page)).toContainText('Sep 2026')
  await expect(page.locator('[data-run-count]')).toContainText('90 pages')
  // the next invoice
  await page.getByRole('button', { name: 'Next' }).click()
  await expect(page.locator('[data-outline][aria-current]')).toContainText('2')
  // the long one, found in the outline
  const pages = pdfText(await downloaded())
  expect(pages.length).toBe(90)
  const long = pages.findIndex(each => /page 1 of [3-9]/.test(each))
  const number = /INV-\d+/.exec(pages[long]!)![0]
  await page.getByLabel('Find in the outline').fill(number)
  await page.getByLabel('Find in the outline').press('Enter')
  await expect(pageText(page, long)).toContainText(number)
  // what is carried is printed, but not read aloud
  expect(pages[long]).toContain('Carried forward')
  // totals of the PDF equal those of the rows
  const rows = (await (
    await page.request.post('/api/order', {
      ...ours,
      data: { report: 'Sales invoice', answers: { month: '2026-09' }, output: { format: 'json' } },
    })
  ).json()) as { number: string; total: number }[]
  const print = (value: number) => value.toLocaleString('en', { minimumFractionDigits: 2 })
  for (const each of rows) {
    const total = pages
      .filter(text => text.includes(`${each.number} ·`))
      .map(text => /Total due, \w+ +([\d,.]+)/.exec(text)?.[1])
      .find(Boolean)
    expect(total, each.number).toBe(print(each.total))
  }

  async function downloaded(): Promise<string> {
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'PDF' }).click()])
    expect(download.suggestedFilename()).toBe('Sales invoice 2026-09.pdf')
    const file = info.outputPath('run.pdf')
    await download.saveAs(file)
    return file
  }
})

for (const report of [
  'Sales invoice',
  'Credit note',
  'Invoice register',
  'Statement lines',
  'Item sales',
  'Top ten customers',
  'Salesperson sheets',
  'Price list',
  'Register from one text',
  'Sales grid',
  'Sales charts',
  'Registers by salesperson',
  'Income statement',
])
  test(`${report}: its first page on screen and in the PDF are the same picture`, async ({ page }, info) => {
    const library = (await (await page.request.get('/api/library')).json()) as { reports: { id: string; name: string }[] }[]
    const id = library.flatMap(shelf => shelf.reports).find(each => each.name === report)!.id
    await page.goto(`/run/${id}`)
    await expect(page.locator('[data-run-count]')).toContainText('rows as of', { timeout: 60_000 })
    await expect(pageText(page)).toContainText('Cais Velho')
    const drawn = () =>
      page
        .locator('[data-page="0"] canvas')
        .evaluate((element: HTMLCanvasElement) => ({ data: element.toDataURL('image/png'), width: element.width, height: element.height }))
    let canvas = await drawn()
    // it is drawn when nothing is added to it any more
    await expect
      .poll(async () => {
        const before = canvas.data
        canvas = await drawn()
        return canvas.data === before
      })
      .toBe(true)
    const order = await page.request.post('/api/order', { ...ours, data: { report, answers: {}, output: { format: 'pdf' } } })
    const file = info.outputPath('page.pdf')
    writeFileSync(file, await order.body())
    execFileSync('pdftoppm', [
      '-png',
      '-f',
      '1',
      '-l',
      '1',
      '-scale-to-x',
      String(canvas.width),
      '-scale-to-y',
      String(canvas.height),
      '-singlefile',
      file,
      info.outputPath('page'),
    ])
    const paper = `data:image/png;base64,${readFileSync(info.outputPath('page.png')).toString('base64')}`
    // ink is blurred a little, since two programs smooth letters differently; what is left must lie in the same places
    const found = await page.evaluate(
      async ({ screen, paper }) => {
        const ink = async (source: string) => {
          const image = new Image()
          image.src = source
          await image.decode()
          const canvas = document.createElement('canvas')
          canvas.width = image.width
          canvas.height = image.height
          const pen = canvas.getContext('2d')!
          pen.filter = 'blur(1.5px)'
          pen.drawImage(image, 0, 0)
          const { data } = pen.getImageData(0, 0, image.width, image.height)
          return Float32Array.from(
            { length: image.width * image.height },
            (_, at) => 255 - (data[at * 4]! + data[at * 4 + 1]! + data[at * 4 + 2]!) / 3,
          )
        }
        const [a, b] = [await ink(screen), await ink(paper)]
        let [both, squares, other] = [0, 0, 0]
        for (let at = 0; at < a.length; at++) {
          both += a[at]! * b[at]!
          squares += a[at]! * a[at]!
          other += b[at]! * b[at]!
        }
        return { same: a.length === b.length, likeness: both / Math.sqrt(squares * other) }
      },
      { screen: canvas.data, paper },
    )
    expect(found.same).toBe(true)
    expect(found.likeness).toBeGreaterThan(0.95)
  })

test('a month without invoices, a wrong answer, and a link that is wrong each get a sentence', async ({ page }) => {
  const id = await reportId(page)
  await page.goto(`/run/${id}?month=2020-03`)
  await expect(page.locator('[data-empty]')).toHaveText('No invoice in March 2020.')
  await page.goto(`/run/${id}?month=soon`)
  await expect(page.getByRole('alert')).toContainText('“soon” is no month (written like 2026-10) for Month.')
  await page.goto(`/run/${id}?monat=2026-10`)
  await expect(page.getByRole('alert')).toContainText('There is no parameter “monat”')
  await page.goto('/reports/nowhere/page')
  await expect(page.getByRole('alert')).toContainText('There is no report “nowhere”')
})

test('two tabs editing: the second is told, and its changes are kept', async ({ page, context }) => {
  const id = await copyOf(page, 'Sales invoice', 'Two tabs')
  await page.goto(`/reports/${id}/page`)
  await expect(pageText(page)).toContainText('Total due')
  const second = await context.newPage()
  await second.goto(`/reports/${id}/page`)
  await expect(pageText(second)).toContainText('Total due')
  for (const [tab, word] of [
    [page, 'Goods'],
    [second, 'Wares'],
  ] as const) {
    await tab.bringToFront()
    await clickCell(tab, 'Item', { double: true })
    await tab.getByLabel('Text of the cell').fill(word)
    await tab.keyboard.press('Enter')
    if (tab === page) await expect(tab.locator('[data-save-state]')).toHaveText('Saved')
  }
  await expect(second.getByRole('alert')).toContainText('Somebody else saved this report in the meantime')
  await second.getByRole('button', { name: 'Open the current version' }).click()
  await expect(pageText(second)).toContainText('Goods')
})

test('a save that fails keeps the changes and says so', async ({ page }) => {
  const id = await copyOf(page, 'Sales invoice', 'Not saved')
  await page.goto(`/reports/${id}/page`)
  await expect(pageText(page)).toContainText('Total due')
  await page.route(`**/api/reports/${id}`, route =>
    route.request().method() === 'PUT'
      ? route.fulfill({
          status: 507,
          json: {
            message: 'The disk of the data folder is full; nothing was saved. Free some space and save again: your changes are still here.',
          },
        })
      : route.continue(),
  )
  await clickCell(page, 'Item', { double: true })
  await page.getByLabel('Text of the cell').fill('Kept')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('The disk of the data folder is full')
  await page.unroute(`**/api/reports/${id}`)
  // even a reload loses nothing
  await page.reload()
  await expect(pageText(page)).toContainText('Kept')
  await expect(page.locator('[data-save-state]')).toHaveText('Saved')
})

test('import: a definition of a newer format and a corrupt file are refused with a sentence', async ({ page }) => {
  await page.goto('/')
  const chooser = page.getByLabel('Definition file')
  await chooser.setInputFiles({ name: 'later.json', mimeType: 'application/json', buffer: Buffer.from('{"format": 9}') })
  await expect(page.getByText('This definition has format 9, which is newer than this program reads (2)').first()).toBeVisible()
  await chooser.setInputFiles({ name: 'broken.json', mimeType: 'application/json', buffer: Buffer.from('{"format": 1,') })
  await expect(page.getByText(/The file is not readable JSON/).first()).toBeVisible()
  const definition = await (await page.request.get(`/api/reports/${await reportId(page)}/export`)).text()
  await chooser.setInputFiles({ name: 'Copy of invoice.json', mimeType: 'application/json', buffer: Buffer.from(definition) })
  await expect(page).toHaveURL(/\/reports\/.*\/page$/)
  await expect(pageText(page)).toContainText('Total due')
})

test('Run: one customer, chosen from the choices, and all again', async ({ page }) => {
  const rows = (await (
    await page.request.post('/api/order', {
      ...ours,
      data: { report: 'Sales invoice', answers: { month: '2026-09' }, output: { format: 'json' } },
    })
  ).json()) as { number: string; 'customer.code': string; 'customer.name': string }[]
  const { 'customer.code': code, 'customer.name': name } = rows[0]!
  await page.goto(`/run/${await reportId(page)}?month=2026-09`)
  await expect(page.locator('[data-run-count]')).toContainText('90 pages')
  await page.locator('#answer-customer').click()
  await page.getByPlaceholder('Find a customer').fill(code)
  await page.getByRole('option', { name }).click()
  await expect(page).toHaveURL(new RegExp(`customer=${code}`))
  await expect(page.locator('[data-outline]')).toHaveCount(rows.filter(row => row['customer.code'] === code).length)
  await page.getByRole('button', { name: /All, no customer/ }).click()
  await expect(page.locator('[data-run-count]')).toContainText('90 pages')
})

test('a second server on the same data folder is refused, naming the first', async ({ baseURL }) => {
  const second = spawnSync('node', ['.output/server/index.mjs'], {
    encoding: 'utf8',
    timeout: 30_000,
    env: {
      ...process.env,
      ESTANTE_ROOT: process.cwd(),
      ESTANTE_DATA: '.build/e2e-data',
      NITRO_HOST: '127.0.0.1',
      NITRO_PORT: '4799',
      PORT: '4799',
    },
  })
  expect(second.status).toBe(2)
  expect(second.stderr).toContain(`is in use by another Estante (process`)
  expect(second.stderr).toContain(` at ${baseURL}, since `)
})

test('requests from another host or page are refused', async ({ baseURL }) => {
  const port = new URL(baseURL!).port
  const ask = (...headers: string[]) =>
    execFileSync(
      'node',
      [
        '-e',
        `
    const { request } = require('node:http')
    const options = { host: '127.0.0.1', port: ${port}, path: '/api/library', headers: JSON.parse(process.argv[1]) }
    request(options, answer => { let text = ''; answer.on('data', part => text += part); answer.on('end', () => ` +
          `console.log(answer.statusCode + ' ' + text)) }).end()`,
        JSON.stringify(Object.fromEntries(headers.map(each => each.split('=') as [string, string]))),
      ],
      { encoding: 'utf8' },
    )
  expect(ask(`host=127.0.0.1:${port}`)).toMatch(/^200 /)
  expect(ask('host=evil.example')).toMatch(/^403 .*Estante answers only under 127\.0\.0\.1 or localhost/)
  expect(ask(`host=127.0.0.1:${port}`, 'origin=http://evil.example')).toMatch(/^403 .*Estante takes no requests from other pages/)
  expect(ask(`host=127.0.0.1:${port}`, `origin=http://127.0.0.1:${port}`)).toMatch(/^200 /)
})

test('the command line goes through the server that holds the folder', async ({ baseURL }, info) => {
  const out = info.outputPath('cli.pdf')
  const line = execFileSync(
    'node',
    ['.build/cli/estante.mjs', 'run', 'Sales invoice', '--set', 'month=2026-10', '--out', out, '--data', '.build/e2e-data'],
    { encoding: 'utf8', env: { ...process.env, ESTANTE_ROOT: process.cwd() } },
  )
  expect(baseURL).toBeTruthy()
  const told = JSON.parse(line) as { pages: number; report: string }
  expect(told.report).toBe('Sales invoice')
  expect(pdfText(out).length).toBe(told.pages)
})
