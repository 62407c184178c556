import { readFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { type OwnServer, ownServer } from './ownServer'
import { expect, pick, test } from './support'

let server: OwnServer
let own = ''
test.beforeAll(async () => {
  test.setTimeout(180_000)
  server = ownServer('4799', { ESTANTE_DEMO: 'on' })
  own = server.address
  await server.said(/Estante is ready/)
})
test.afterAll(() => server.end())

const fileOf = (name: string) => JSON.parse(readFileSync(`app/i18n/${name}.json`, 'utf8')) as Record<string, Record<string, string>>
/** Texts of more than one word that are not the same in Portuguese: where one is seen, it was left in English. */
const english = (() => {
  const [en, pt, said] = [fileOf('en'), fileOf('pt'), fileOf('said.pt')]
  const own = Object.entries(en).flatMap(([area, texts]) =>
    Object.entries(texts).flatMap(([name, text]) => (text === pt[area]![name] ? [] : [text])),
  )
  return new Set([...own, ...Object.keys(said.phrases!)].map(text => text.trim()).filter(text => / /.test(text) && !/[{|]/.test(text)))
})()
/** All that a page says, to eyes and to screen readers. */
const saidBy = (page: Page): Promise<string[]> =>
  page.evaluate(() => {
    const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT)
    const texts: string[] = []
    // what is printed is in the language of its report
    for (let node = walker.nextNode(); node; node = walker.nextNode())
      if (!node.parentElement!.closest('[data-page-text], script, style')) texts.push(node.textContent!.trim())
    const attributes = ['aria-label', 'title', 'placeholder', 'alt']
    for (const element of document.querySelectorAll(attributes.map(each => `[${each}]`).join()))
      texts.push(...attributes.map(each => element.getAttribute(each) ?? ''))
    return texts.filter(Boolean)
  })

test('the interface is in the language of the browser, then of the person, on every main view and in what is refused', async ({
  browser,
}) => {
  test.setTimeout(180_000)
  const context = await browser.newContext({ locale: 'pt-PT' })
  const page = await context.newPage()
  await page.goto(`${own}/sign-in`)
  await expect(page.getByRole('heading', { name: 'Entrar' })).toBeVisible()
  await page.getByRole('button', { name: 'English' }).click()
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible()
  await expect(page.locator('html')).toHaveAttribute('lang', 'en')
  await page.getByRole('button', { name: 'Português' }).click()
  // what the server says is said in Portuguese too
  await page.getByLabel('Nome').fill('nobody')
  await page.getByLabel('Palavra-passe').fill('nothing at all here')
  await page.getByRole('button', { name: 'Entrar', exact: true }).click()
  await expect(page.getByRole('alert')).toHaveText('O nome ou a palavra-passe não está certo; tente de novo.')
  await page.getByRole('button', { name: /Inês Moura/ }).click()
  await expect(page.locator('[data-account]')).toBeVisible()

  const library = (await (await page.request.get(`${own}/api/library`)).json()) as { reports: { id: string; name: string }[] }[]
  const idOf = (name: string) => library.flatMap(shelf => shelf.reports).find(report => report.name === name)!.id
  const [invoice, statement] = [idOf('Sales invoice'), idOf('Income statement')]
  // what the company itself calls its reports, tables and tie-outs stays as it is
  const company = (
    await Promise.all(
      [`/api/reports/${invoice}`, `/api/reports/${statement}`, '/api/sources/caisvelho/catalog'].map(async path =>
        (await page.request.get(own + path)).text(),
      ),
    )
  ).join(JSON.stringify(library))
  const isTheirs = (text: string) => [text, text.toLowerCase().replaceAll(' ', '_')].some(name => company.includes(JSON.stringify(name)))
  const left = (text: string) => english.has(text) && !isTheirs(text)
  const views = [
    ['/', 'Biblioteca'],
    ['/sources', 'Relaciona-se com'],
    ['/new', 'Esboçar a página'],
    ['/runs', 'Execuções'],
    ['/desk', 'Lançamento no diário'],
    ['/people', 'Acrescentar uma equipa'],
    ['/guards', 'Guardas'],
    ['/log', 'Verificar a cadeia'],
    [`/reports/${invoice}/data`, 'campos assinalados'],
    [`/reports/${invoice}/parameters`, 'Isto é o que os leitores preenchem'],
    [`/reports/${invoice}/page`, 'Topo da página'],
    [`/reports/${statement}/page`, 'Topo da página'],
    [`/reports/${statement}/tieout`, 'Sugeridas para este relatório'],
    [`/run/${statement}`, 'linhas à data de'],
    ['/account', 'Onde tem sessão aberta'],
  ]
  for (const [path, wanted] of views) {
    await page.goto(own + path)
    await expect(page.getByText(wanted!).first()).toBeVisible()
    expect((await saidBy(page)).filter(left), path).toEqual([])
  }
  // dates and numbers too
  await page.goto(`${own}/sources`)
  await expect(page.locator('aside')).toContainText(/Journal lines\s*54[ \u00a0]548/)
  await page.goto(`${own}/run/${invoice}`)
  await expect(page.getByText('outubro de 2026').first()).toBeVisible()

  // English, for this person, wherever they sign in
  await page.goto(`${own}/account`)
  await pick(page.getByLabel('Língua da interface'), 'English')
  await expect(page.getByRole('heading', { name: 'Where you are signed in' })).toBeVisible()
  const elsewhere = await (await browser.newContext({ locale: 'pt-PT' })).newPage()
  await elsewhere.goto(`${own}/sign-in`)
  await elsewhere.getByRole('button', { name: /Inês Moura/ }).click()
  await expect(elsewhere.getByRole('link', { name: 'Library', exact: true })).toBeVisible()
  await expect(elsewhere.locator('html')).toHaveAttribute('lang', 'en')
  // another who signs in there and never said one is spoken to as that machine is
  const other = await (await browser.newContext({ locale: 'pt-PT' })).newPage()
  await other.goto(`${own}/sign-in`)
  await other.getByRole('button', { name: /Tomás Vaz/ }).click()
  await expect(other.getByRole('link', { name: 'Biblioteca', exact: true })).toBeVisible()
})
