import { root } from './harness'
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import type { ReportDefinition } from '../core/definition/report'

/** A server of the built application on a company, and a browser. */
export async function inBrowser(
  folder: string,
  work: (page: import('playwright-core').Page, address: string) => Promise<void>,
): Promise<void> {
  const { chromium } = await import('playwright-core')
  const address = 'http://127.0.0.1:4794'
  const server = spawn(process.execPath, [join(root, '.output/server/index.mjs')], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...process.env, ESTANTE_DATA: folder, ESTANTE_PEOPLE: 'none', NITRO_HOST: '127.0.0.1', NITRO_PORT: '4794', PORT: '4794' },
  })
  await new Promise<void>(resolve =>
    server.stdout.on('data', data => {
      if (String(data).includes('ready')) resolve()
    }),
  )
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking', '--enable-precise-memory-info'],
  })
  try {
    await work(await browser.newPage({ viewport: { width: 1280, height: 800 } }), address)
  } finally {
    await browser.close()
    server.kill('SIGTERM')
    await new Promise(resolve => server.on('exit', resolve))
  }
}

/** Keeps a report on a running server; its id. */
export async function keepReport(address: string, definition: ReportDefinition): Promise<string> {
  const answer = await fetch(`${address}/api/reports`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: address },
    body: JSON.stringify({ name: `Bench ${Date.now()}`, shelf: 'Bench', definition }),
  })
  const { id, message } = (await answer.json()) as { id?: string; message?: string }
  if (id === undefined) throw new Error(`The report was not kept: ${message}`)
  return id
}

/**
 * Makes edits on the open sheet, one after the other, so many rounds of them; milliseconds from the key to the painted page, the first
 * round left out.
 */
export async function paintedEdits(
  tab: import('playwright-core').Page,
  edits: [string, ...unknown[]][],
  rounds: number,
): Promise<number[]> {
  // each press of F9 makes the next edit; the time ends after the frame in which the canvas was drawn
  await tab.evaluate(edits => {
    const hook = window as unknown as {
      estanteSheet(): { edit(name: string, ...args: unknown[]): void; undo(): void; painted(): Promise<void> }
      estanteTimes: number[]
    }
    hook.estanteTimes = []
    let next = 0
    window.addEventListener('keydown', event => {
      if (event.key !== 'F9') return
      const [name, ...args] = edits[next++ % edits.length]!
      const sheet = hook.estanteSheet()
      const painted = sheet.painted()
      if (name === 'undo') sheet.undo()
      else sheet.edit(name as string, ...args)
      void painted.then(() => requestAnimationFrame(() => setTimeout(() => hook.estanteTimes.push(performance.now() - event.timeStamp), 0)))
    })
  }, edits)
  for (let index = 0; index < edits.length * rounds; index++) {
    await tab.keyboard.press('F9')
    await tab.waitForFunction(count => (window as unknown as { estanteTimes: number[] }).estanteTimes.length > count, index, {
      polling: 10,
    })
  }
  return (await tab.evaluate(() => (window as unknown as { estanteTimes: number[] }).estanteTimes)).slice(edits.length)
}

/** Pages painted a second while a column becomes a little wider at every move, as a drag of its border does. */
export function dragged(tab: import('playwright-core').Page): Promise<number> {
  return tab.evaluate(async () => {
    const sheet = (
      window as unknown as { estanteSheet(): { edit(name: string, ...args: unknown[]): void; painted(): Promise<void> } }
    ).estanteSheet()
    const move = async (width: number) => {
      const painted = sheet.painted()
      sheet.edit('setColumnWidth', 'list', 'town', width)
      await painted
      await new Promise(requestAnimationFrame)
    }
    await move(59)
    const began = performance.now()
    for (let at = 0; at < 60; at++) await move(60 + (at % 30))
    return 60_000 / (performance.now() - began)
  })
}
