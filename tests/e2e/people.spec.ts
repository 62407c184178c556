import type { APIRequestContext, BrowserContext, Page } from '@playwright/test'
import { type Role, roles } from '../../core/api/people'
import { may, rights } from '../../server/access/rights'
import { type OwnServer, ownServer } from './ownServer'
import { expect, pick, test } from './support'

let server: OwnServer
let [own, link] = ['', '']
test.beforeAll(async () => {
  server = ownServer('4794')
  own = server.address
  const wanted = /http:\/\/127\.0\.0\.1:\d+\/first\?key=[\w-]+/
  link = wanted.exec(await server.said(wanted))![0]
})
test.afterAll(() => server.end())

async function signIn(context: BrowserContext, name: string, password: string): Promise<Page> {
  const page = await context.newPage()
  await page.goto(own)
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible()
  await page.getByLabel('Name', { exact: true }).fill(name)
  await page.getByLabel('Password', { exact: true }).fill(password)
  await page.keyboard.press('Enter')
  return page
}

test('the first administrator by a link that works once, people with what they may do, and the end of a session', async ({
  page,
  browser,
}) => {
  const wrong = await page.request.post(`${own}/api/first`, {
    headers: { origin: own },
    data: { key: 'guessed', name: 'Anybody', signIn: 'anybody', password: 'nine grey gulls at noon' },
  })
  expect(wrong.status()).toBe(403)
  await page.goto(link)
  await page.getByLabel('Your name').fill('Beatriz Norheim')
  await page.getByLabel('You sign in as').fill('Beatriz')
  await page.getByLabel('Password').fill('too short')
  await page.getByRole('button', { name: 'Make me administrator' }).click()
  await expect(page.getByRole('alert')).toHaveText('The password has 9 characters; take at least 12.')
  await page.getByLabel('Password').fill('nine grey gulls at noon')
  await page.getByRole('button', { name: 'Make me administrator' }).click()
  await expect(page.locator('[data-person="beatriz"]')).toContainText('you')
  // the link has done its work
  const again = await page.request.post(`${own}/api/first`, {
    headers: { origin: own },
    data: { key: new URL(link).searchParams.get('key'), name: 'Anybody', signIn: 'anybody', password: 'nine grey gulls at noon' },
  })
  expect(again.status()).toBe(409)

  await page.getByRole('button', { name: 'Add a person' }).click()
  const form = page.locator('[data-new-person]')
  await form.getByLabel('Name', { exact: true }).fill('Rui Falcão')
  await form.getByLabel('Signs in as').fill('rui')
  await form.getByLabel('First password').fill('four boats in the fog')
  await form.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(page.locator('[data-person="rui"]')).toContainText('Rui Falcão')

  // a reader sees no way to build, and is refused where they try
  const other = await browser.newContext()
  const reader = await signIn(other, 'rui', 'four boats in the fog')
  await expect(reader.locator('[data-account]')).toHaveText('RF')
  await expect(reader.getByRole('link', { name: 'New report' })).toBeHidden()
  await expect(reader.getByRole('link', { name: 'Sources' })).toBeHidden()
  expect((await reader.request.get(`${own}/api/people`)).status()).toBe(403)
  const made = await reader.request.post(`${own}/api/shelves`, { headers: { origin: own }, data: { name: 'Mine' } })
  expect([made.status(), ((await made.json()) as { message: string }).message]).toEqual([
    403,
    'This is for authors; ask an administrator of Estante.',
  ])
  // made an author, they may at once
  await pick(page.getByLabel('What Rui Falcão may do'), 'author')
  await expect
    .poll(async () => (await reader.request.post(`${own}/api/shelves`, { headers: { origin: own }, data: { name: 'Mine' } })).status())
    .toBe(200)
  // and removed, they are signed out
  await page.getByRole('button', { name: 'Remove Rui Falcão' }).click()
  await page.getByRole('button', { name: 'Remove', exact: true }).click()
  await expect(page.locator('[data-person="rui"]')).toBeHidden()
  await reader.goto(own)
  await expect(reader.getByRole('heading', { name: 'Sign in' })).toBeVisible()
  await other.close()

  // nobody else is let in, and what was wrong is not told
  const stranger = await browser.newContext()
  const there = await signIn(stranger, 'beatriz', 'a password she has not')
  await expect(there.getByRole('alert')).toHaveText('The name or the password is not right; try again.')
  await there.getByLabel('Password', { exact: true }).fill('nine grey gulls at noon')
  await there.keyboard.press('Enter')
  await expect(there.locator('[data-account]')).toHaveText('BN')
  await stranger.close()

  // signing out by the keyboard
  await page.locator('[data-account]').press('Enter')
  await page.getByRole('menuitem', { name: 'Sign out' }).press('Enter')
  await expect(page.getByRole('heading', { name: 'Sign in' })).toBeVisible()
  expect((await page.request.get(`${own}/api/library`)).status()).toBe(401)
})

test('every route is answered to whom it is for, and refused to all others', async ({ page, browser }) => {
  const administrator = await signIn(page.context(), 'beatriz', 'nine grey gulls at noon')
  await expect(administrator.locator('[data-account]')).toBeVisible()
  const people: Record<Role | 'nobody', APIRequestContext> = {
    nobody: (await browser.newContext()).request,
    reader: (await browser.newContext()).request,
    author: (await browser.newContext()).request,
    administrator: administrator.request,
  }
  const send = (who: APIRequestContext, method: string, path: string, data: object = {}) =>
    who.fetch(`${own}${path}`, { method, headers: { origin: own }, ...(method === 'GET' ? {} : { data }) })
  for (const role of ['reader', 'author'] as const) {
    const made = { name: `Of ${role}s`, signIn: role, role, password: 'four boats in the fog' }
    expect((await send(people.administrator, 'POST', '/api/people', made)).status()).toBe(200)
    expect((await send(people[role], 'POST', '/api/session', { name: role, password: made.password })).status()).toBe(200)
  }
  let asked = 0
  for (const [route, right] of Object.entries(rights)) {
    const [method, pattern] = route.split(' ') as [string, string]
    // signing out is tried at last, each for themselves
    if (route === 'DELETE /api/session') continue
    // of a report, readers see what is published
    const path = pattern.replace(/:\w+/g, 'none-of-this-name') + (route === 'GET /api/reports/:id' ? '?which=published' : '')
    for (const who of ['nobody', ...roles] as const) {
      const status = (await send(people[who], method, path)).status()
      const allowed = may(who === 'nobody' ? undefined : who, right)
      const refused = status === (who === 'nobody' ? 401 : 403)
      expect([route, who, status, refused]).toEqual([route, who, status, !allowed])
      asked++
    }
  }
  expect(asked).toBeGreaterThan(350)
  // a program asks with a token: without a cookie or an origin, up to what the token may, until it is taken back
  const until = new Date(Date.now() + 5 * 86_400_000).toISOString().slice(0, 10)
  const made = (await (await send(people.author, 'POST', '/api/tokens', { name: 'Nightly', scope: 'reader', until })).json()) as {
    id: string
    token: string
  }
  const program = (await browser.newContext()).request
  const headers = { authorization: `Bearer ${made.token}` }
  expect((await program.get(`${own}/api/library`, { headers })).status()).toBe(200)
  expect((await program.post(`${own}/api/shelves`, { headers, data: { name: 'By a program' } })).status()).toBe(403)
  expect((await program.post(`${own}/api/tokens`, { headers, data: { name: 'More', scope: 'reader', until } })).status()).toBe(403)
  expect((await program.get(`${own}/api/library`, { headers: { authorization: 'Bearer guessed' } })).status()).toBe(401)
  const more = await send(people.author, 'POST', '/api/tokens', { name: 'More', scope: 'administrator', until })
  expect([more.status(), ((await more.json()) as { message: string }).message]).toEqual([
    422,
    'A token may do no more than you: you are author.',
  ])
  expect((await send(people.author, 'DELETE', `/api/tokens/${made.id}`)).status()).toBe(200)
  expect((await program.get(`${own}/api/library`, { headers })).status()).toBe(401)
  // a cookie that was made up, or copied and then ended, is nobody's
  const cookies = await administrator.context().cookies()
  const session = cookies.find(each => each.name.startsWith('estante-session-'))!
  expect(session).toMatchObject({ httpOnly: true, sameSite: 'Strict' })
  const copied = await browser.newContext()
  await copied.addCookies([{ ...session }])
  expect((await copied.request.get(`${own}/api/people`)).status()).toBe(200)
  await copied.addCookies([{ ...session, value: `${session.value.slice(0, -2)}xx` }])
  expect((await copied.request.get(`${own}/api/people`)).status()).toBe(401)
  await copied.addCookies([{ ...session }])
  expect((await send(people.administrator, 'DELETE', '/api/session')).status()).toBe(200)
  expect((await copied.request.get(`${own}/api/people`)).status()).toBe(401)
  // and what was done stands in the log
  await signIn(await browser.newContext(), 'beatriz', 'nine grey gulls at noon').then(async again => {
    await expect(again.locator('[data-account]')).toBeVisible()
    await again.goto(`${own}/log`)
    await expect(again.locator('[data-log]')).toContainText('person added')
    await again.getByRole('button', { name: 'Check the chain' }).click()
    await expect(again.getByRole('status')).toContainText('are as they were written')
    const csv = await (await again.request.get(`${own}/api/audit/file?format=csv`)).text()
    expect(csv.split('\r\n')[0]).toBe('number,at,kind,person,name,address,about')
    expect(csv).not.toContain('four boats in the fog')
  })
})
